"""YAML text -> plain nodes with line numbers. Every scalar is text; what YAML would silently change is refused."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from typing import Any

import yaml as libyaml
from ruamel.yaml import YAML
from ruamel.yaml.error import MarkedYAMLError
from ruamel.yaml.nodes import Node as AnyNode
from ruamel.yaml.nodes import ScalarNode, SequenceNode

from jolly_clerk.core.say import say
from jolly_clerk.core.values import Raw
from jolly_clerk.shelf.unreadable import mend

Path = tuple[str | int, ...]
MOST_BYTES = 2_000_000
#: a node of either parser
Node = AnyNode | libyaml.Node
SCALARS, SEQUENCES = (ScalarNode, libyaml.ScalarNode), (SequenceNode, libyaml.SequenceNode)
#: what the fast parser would take otherwise than YAML 1.2 says, or would not tell: anchors, aliases, tags, directives, tabs
_UNUSUAL = re.compile(r"(^|[\s\[{,])[&*!][^\s=]|^%|\t|\\/", re.MULTILINE)
#: characters that YAML 1.2 does not take
_NO_TEXT = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f\ud800-\udfff\ufffe\uffff]")


@dataclass(frozen=True, slots=True)
class FileFault:
    """A fault in a rulebook file: 1-based line, 0 if it is about the whole file."""

    file: str
    line: int
    message: str

    def __str__(self) -> str:
        return f"{self.file}:{self.line}: {self.message}" if self.line else f"{self.file}: {self.message}"


class UnreadableRulebook(ValueError):
    """A file that is refused, with all its faults."""

    def __init__(self, faults: list[FileFault]) -> None:
        super().__init__("\n".join(map(str, faults)))
        self.faults = faults


@dataclass(slots=True)
class Nodes:
    """The plain value of a file and the line of every path in it."""

    file: str
    value: Any
    lines: dict[Path, int] = field(default_factory=dict)

    def line(self, path: Path) -> int:
        """The line of a path, or of the nearest one above it."""
        while path and path not in self.lines:
            path = path[:-1]
        return self.lines.get(path, 1)


def read_nodes(text: str, file: str) -> Nodes:
    """Parse YAML 1.2. Raises :class:`UnreadableRulebook` for what cannot be read or would silently change."""
    if len(text) > MOST_BYTES:
        raise UnreadableRulebook([FileFault(file, 0, say("this file is larger than 2 MB; a rulebook is not"))])
    if odd := _NO_TEXT.search(text):
        line = text.count("\n", 0, odd.start()) + 1
        said = say("this line holds a character that no text holds (U+{code}); type it anew", code=f"{ord(odd[0]):04X}")
        raise UnreadableRulebook([FileFault(file, line, said)])
    try:
        root = _composed(text)
    except MarkedYAMLError as error:
        line, told = mend(error, text)
        raise UnreadableRulebook([FileFault(file, line, told)]) from None
    except (RecursionError, ValueError):
        raise UnreadableRulebook(
            [FileFault(file, 0, say("this cannot be read; see the guide for how an edition is written"))]
        ) from None
    nodes = Nodes(file, None)
    faults: list[FileFault] = []
    nodes.value = _plain(root, (), nodes, faults, set())
    if not isinstance(nodes.value, dict):
        faults.append(FileFault(file, 1, say("a rulebook begins with keys like `kind:` and `title:`")))
    if faults:
        raise UnreadableRulebook(faults)
    return nodes


def _composed(text: str) -> Node | None:
    """The root node. libyaml reads twenty times as fast; what it refuses or takes otherwise is read by ruamel, which says why."""
    if not _UNUSUAL.search(text):
        try:
            return libyaml.compose(text, Loader=getattr(libyaml, "CSafeLoader", libyaml.SafeLoader))
        except libyaml.YAMLError:
            pass
    root: Node | None = YAML(typ="safe", pure=True).compose(text)
    return root


def _plain(node: Node | None, path: Path, nodes: Nodes, faults: list[FileFault], above: set[int]) -> Raw:
    if node is None:
        return None
    line = node.start_mark.line + 1
    nodes.lines.setdefault(path, line)
    if id(node) in above or getattr(node, "anchor", None):
        faults.append(FileFault(nodes.file, line, say("write it out: references to other places (& and *) are not taken")))
        return None
    if isinstance(node, SCALARS):
        return str(node.value)
    if isinstance(node, SEQUENCES):
        return [_plain(child, (*path, n), nodes, faults, above | {id(node)}) for n, child in enumerate(node.value)]
    found: dict[str, Any] = {}
    for key_node, value_node in node.value:
        key = str(key_node.value)
        at = key_node.start_mark.line + 1
        if key in found:
            faults.append(FileFault(nodes.file, at, say("`{key}` stands twice here", key=key)))
        empty = isinstance(value_node, SCALARS) and value_node.value == "" and not value_node.style
        if empty and getattr(node, "flow_style", False):
            faults.append(
                FileFault(
                    nodes.file,
                    at,
                    say("the comma before “{key}” splits the sentence; put the sentence in double quotes", key=key),
                )
            )
            continue
        nodes.lines[(*path, key)] = at
        found[key] = _plain(value_node, (*path, key), nodes, faults, above | {id(node)})
    return found
