"""The sentences and labels of code as messages: constants as they are, formatted ones with ``{1}``,
``{2}`` for what is put in. Where what is put in is one of two constants, there are two messages.

Code is read as text (`ast`), nothing of it is run. What is no text for people (keys, queries, drawings,
documentation) is left out by what it looks like; too much does no harm, since a message is only used where
a sentence is shown.
"""

from __future__ import annotations

import ast
import itertools
import re
import tomllib
from collections.abc import Iterator
from pathlib import Path

LEFT_OUT = ("tests", "management", "migrations", "demo", "replay", "languages", "static", "assets")
"""Rooms whose sentences are for builders, or are made-up data."""
LEFT_OUT_FILES = (
    "settings.py",
    "cli.py",
    "wsgi.py",
    "alive.py",
    "formats/schemas.py",
    "testing.py",
)
MOST_VARIANTS = 8
_NO_TEXT = re.compile(
    r"^[#./?&=<@]|[<>]|^\W*$|https?:|^SELECT\b|^%|[|\\]{2}|__|^[a-z-]+/[a-z*-]|^[a-z]+(?:-[a-z]+)+$|charset"
    r"|=\s*$|max-age|no-store|dasharray|^[a-z]+(?:_[a-z]+)+ |^noindex|^\{1\} (?:cm|yd|in|sq in|min)$|in/in"
    r"|^- at|^(?:Expected|Invalid enum|Object missing)|^of (?:a )?length"
)
_LETTERS = re.compile(r"[A-Za-z]{2,}|\bI\b|\ba\b")
HERE = Path(__file__).parent
BLOCKS = HERE.parents[1] / "chorograph_core/blocks/blocks.toml"


def is_text(text: str) -> bool:
    """Whether a constant reads like words for people: more words than one, or a word with a capital."""
    bare = re.sub(r"\{\d+\}", " ", text)
    if not _LETTERS.search(bare) or _NO_TEXT.search(text.strip()):
        return False
    if " " in text.strip():
        return True
    return bool(re.match(r"^[A-Z][a-z]+(?:[’-][a-z]+)*[.:!?…]?$", bare.strip()))


def _for_readers_of_code(tree: ast.AST) -> set[int]:
    """Constants that nobody is shown: those that stand alone (documentation), names that a room hands out,
    patterns of text."""
    found = set()
    for each in ast.walk(tree):
        if isinstance(each, ast.Expr) and isinstance(each.value, ast.Constant):
            found.add(id(each.value))
        elif isinstance(each, ast.Assign) and any(
            isinstance(target, ast.Name) and target.id == "__all__" for target in each.targets
        ):
            found.update(id(name) for name in ast.walk(each.value))
        elif isinstance(each, ast.Call) and ast.unparse(each.func).startswith("re."):
            found.update(id(argument) for argument in each.args)
    return found


def _variants(node: ast.expr) -> list[list[str | None]]:
    """What an expression may come out as: lists of constants, None for what is put in."""
    if isinstance(node, ast.Constant):
        return [[node.value]] if isinstance(node.value, str) else [[None]]
    if isinstance(node, ast.IfExp):
        both = _variants(node.body) + _variants(node.orelse)
        if all(len(each) == 1 and isinstance(each[0], str) for each in both):
            return both
        return [[None]]
    if isinstance(node, ast.FormattedValue):
        return (
            _variants(node.value)
            if node.format_spec is None and node.conversion == -1
            else [[None]]
        )
    if isinstance(node, ast.JoinedStr):
        choices = [_variants(each) for each in node.values]
        while _count(choices) > MOST_VARIANTS:
            most = max(range(len(choices)), key=lambda k: len(choices[k]))
            choices[most] = [[None]]
        return [list(itertools.chain(*each)) for each in itertools.product(*choices)]
    return [[None]]


def _count(choices: list[list[list[str | None]]]) -> int:
    count = 1
    for each in choices:
        count *= len(each)
    return count


def _written(parts: list[str | None]) -> Iterator[str]:
    """Parts as messages: one for each paragraph."""
    whole = "".join("\0" if part is None else part for part in parts)
    for paragraph in whole.split("\n\n"):
        numbers = itertools.count(1)
        yield " ".join(re.sub("\0", lambda _, n=numbers: f"{{{next(n)}}}", paragraph).split())


def messages_of(source: str) -> Iterator[str]:
    """The messages of a file of code."""
    tree = ast.parse(source)
    without = _for_readers_of_code(tree)
    for node in ast.walk(tree):
        if isinstance(node, ast.JoinedStr):
            for part in node.values:
                kept = part if isinstance(part, ast.Constant) else part.format_spec
                without.update(id(each) for each in (ast.walk(kept) if kept is not None else ()))
    for node in ast.walk(tree):
        if id(node) in without:
            continue
        if isinstance(node, ast.JoinedStr) or (
            isinstance(node, ast.Constant) and isinstance(node.value, str)
        ):
            for parts in _variants(node):
                yield from filter(is_text, _written(parts))


def beside() -> Iterator[tuple[str, str]]:
    """Messages that stand in no code: names of blocks, and sentences put together from parts that only
    make sense as a whole (`composed.txt`, one in a line)."""
    for block in tomllib.loads(BLOCKS.read_text()).values():
        yield block["name"], "chorograph_core/blocks/blocks.toml"
    for line in (HERE / "composed.txt").read_text().splitlines():
        if line and not line.startswith("#"):
            yield line, "studio/languages/composed.txt"


def files(roots: list[Path]) -> Iterator[Path]:
    """The files of code whose sentences people read."""
    for root in roots:
        for path in sorted(root.rglob("*.py")):
            if (
                not set(path.relative_to(root).parts) & set(LEFT_OUT)
                and str(path.relative_to(root)) not in LEFT_OUT_FILES
            ):
                yield path
