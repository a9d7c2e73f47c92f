"""The settings of an office: from ``office.toml`` in its folder, overruled by ``JOLLY_CLERK_...`` in the environment."""

from __future__ import annotations

import re
from contextvars import ContextVar
from pathlib import Path
from typing import Final, Literal

from pydantic import Field
from pydantic_settings import BaseSettings, PydanticBaseSettingsSource, SettingsConfigDict, TomlConfigSettingsSource

from jolly_clerk.reading.fence import PAGE_SECONDS, WALL

FILE, DATABASE = "office.toml", "office.db"


class Settings(BaseSettings):
    """What an office can set. ``address`` and ``telephone`` stand in the letterhead; ``base_url`` begins every link in a mail.

    ``database`` is the URL of a PostgreSQL database; without one the office lives in a SQLite file in its folder.
    ``account`` is the office's bank account, as the payment page states it; ``terminal_key`` is shared with the payment terminal.
    A letter waits ``letter_waits`` seconds before it leaves, and an acceptance, a hand-over or an ending ``step_waits``: so long it can be
    taken back.
    ``copies`` is the folder for copies that are taken from the browser, best on another disk; by default one within the office.
    ``language`` is that of the program's own words; an edition brings its own.
    Without ``smtp_host`` mail stays in the outbox, where ``jolly-clerk outbox`` shows it.
    """

    model_config = SettingsConfigDict(env_prefix="JOLLY_CLERK_", extra="ignore")
    name: str = "Quillhaven One-Door Office"
    address: str = "1 Harbour Stairs, Quillhaven"
    telephone: str = ""
    base_url: str = "http://localhost:8321"
    host: str = "127.0.0.1"
    port: int = 8321
    database: str = ""
    account: str = ""
    terminal_key: str = ""
    smtp_host: str = ""
    smtp_port: int = 25
    smtp_user: str = ""
    smtp_password: str = ""
    smtp_starttls: bool = False
    mail_from: str = "office@post.quillhaven.example"
    most_upload_mb: int = Field(default=100, ge=1, le=2000)
    clock_seconds: int = Field(default=60, ge=1)
    session_hours: int = Field(default=12, ge=1, le=72)
    copies: str = ""
    fee_limit: str = "100.00"
    letter_waits: int = Field(default=600, ge=0, le=3600)
    step_waits: int = Field(default=60, ge=0, le=3600)
    language: Literal["en", "pt"] = "en"
    reader_nice: int = Field(default=10, ge=0, le=19)
    reader_wall: int = Field(default=WALL, ge=1, le=100)
    reader_page_seconds: float = Field(default=PAGE_SECONDS, ge=1, le=300)


#: the folder whose settings are being read
_FOLDER: Final[ContextVar[Path]] = ContextVar("folder")


class _InFolder(Settings):
    """Settings from the environment, then from the file in a folder."""

    @classmethod
    def settings_customise_sources(
        cls,
        settings_cls: type[BaseSettings],
        init_settings: PydanticBaseSettingsSource,
        env_settings: PydanticBaseSettingsSource,
        dotenv_settings: PydanticBaseSettingsSource,
        file_secret_settings: PydanticBaseSettingsSource,
    ) -> tuple[PydanticBaseSettingsSource, ...]:
        return env_settings, TomlConfigSettingsSource(settings_cls, _FOLDER.get() / FILE)


def read_settings(folder: Path) -> Settings:
    """The settings of the office in ``folder``."""
    before = _FOLDER.set(folder)
    try:
        return _InFolder()
    finally:
        _FOLDER.reset(before)


def settings_stamp(folder: Path) -> float:
    """When the settings of an office were written last; 0 if they never were."""
    file = folder / FILE
    return file.stat().st_mtime if file.exists() else 0.0


def is_office(folder: Path) -> bool:
    """True if an office lives in a folder: its database is there, or its settings name one."""
    return (folder / DATABASE).exists() or ((folder / FILE).exists() and bool(read_settings(folder).database))


def write_settings(folder: Path, values: dict[str, str]) -> None:
    """Write ``office.toml`` with these values, and the others as comments."""
    lines = ["# Settings of this office. Each can be overruled in the environment, e.g. JOLLY_CLERK_SMTP_HOST."]
    for name, field in Settings.model_fields.items():
        if name in values:
            lines.append(f"{name} = {_quoted(values[name])}")
        else:
            shown = _quoted(field.default) if isinstance(field.default, str) else str(field.default).lower()
            lines.append(f"# {name} = {shown}")
    (folder / FILE).write_text("\n".join(lines) + "\n", "utf-8")
    (folder / FILE).chmod(0o600)  # it may hold passwords and keys


def set_in_file(folder: Path, name: str, value: str) -> None:
    """Set one value in ``office.toml``, the others as they are; empty takes it out."""
    file = folder / FILE
    lines = file.read_text("utf-8").splitlines() if file.exists() else []
    kept = [line for line in lines if not re.match(rf"#? *{name} *=", line)]
    told = f"{name} = {_quoted(value)}" if value else f'# {name} = ""'
    file.write_text("\n".join([*kept, told]) + "\n", "utf-8")
    file.chmod(0o600)


def _quoted(text: str) -> str:
    return '"' + re.sub(r"[\x00-\x1f]", " ", text).replace("\\", "\\\\").replace('"', '\\"') + '"'
