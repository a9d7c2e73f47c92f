"""Routes of the figures: for a time and a kind, on the screen, as CSV and as XLSX."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Literal

from fastapi import Query, Response

from jolly_clerk.core.figures import FigureId
from jolly_clerk.exchange.spreadsheet import csv_file, xlsx_file
from jolly_clerk.office.views import figures
from jolly_clerk.web.asking import Asker, TheOffice
from jolly_clerk.web.attached import attached
from jolly_clerk.web.turns import router_of

router = router_of("/api/figures", "figures")
Kind = Annotated[str, Query(pattern="^([A-Z]{2})?$")]
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


@router.get("")
def all_figures(office: TheOffice, who: Asker, since: date, until: date, kind: Kind = "") -> figures.Figures:
    """The figures of a time and, where one is named, of a kind."""
    return figures.figures(office, who, since, until, kind)


@router.get("/{figure}.{form}", response_class=Response)
def take_along(
    figure: FigureId, form: Literal["csv", "xlsx"], office: TheOffice, who: Asker, since: date, until: date, kind: Kind = ""
) -> Response:
    """One of them as CSV or XLSX."""
    one = next(table for table in figures.figures(office, who, since, until, kind).tables if table.id == figure)
    rows, name = figures.table_of(one), f"{figure.replace(' ', '-')}.{form}"
    if form == "csv":
        return attached(csv_file(rows), "text/csv", name)
    return attached(xlsx_file(one.title, rows, {}), XLSX, name)
