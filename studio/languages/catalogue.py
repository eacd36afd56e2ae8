"""The catalogues of a language, as gettext keeps them, and sentences found again among their patterns."""

from __future__ import annotations

import functools
import gettext
import itertools
import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path

LOCALES = Path(__file__).parent / "locale"
SOURCE = "en"
"""The language that templates and code are written in."""
NAMES = {SOURCE: "English", "nl": "Nederlands"}
"""The languages there are, each by its own name."""
FIELD = re.compile(r"\{(\w*)(?::([^{},]*),([^{}]*))?\}")
"""What is put into a message: ``{1}``. In a translation ``{2:dag,dagen}`` stands for an ending that was put
in, the first word where it was empty."""
_MEASURE = re.compile(r"(?:\{(\w*)\}|(\d+(?: \d+)?(?:/\d+)?))(?: ?″| sq in\b| yd\b)")
FEW_LETTERS = 7
"""A pattern with fewer letters of its own is *weak*: it fits too much to be believed alone."""
_ADDS = ",;:· "
_LETTER = re.compile(r"[^\W\d_]")
_WORD = re.compile(r"[^\W\d_]+")


@functools.cache
def of(language: str, domain: str) -> dict[str, str]:
    """All messages of a catalogue (``pages``, ``words`` or ``scripts``) with what is said for them."""
    if language == SOURCE:
        return {}
    catalogue = gettext.translation(domain, LOCALES, [language])
    messages: dict[str, str] = catalogue._catalog  # type: ignore[attr-defined]
    found = {message: said for message, said in messages.items() if message and said}
    if domain == "words":
        # What is added to a sentence is found alone as well: “, 2 layers”.
        for message, said in list(found.items()):
            if message[0] in _ADDS:
                found.setdefault(message.lstrip(_ADDS), said.lstrip(_ADDS))
            # So is each sentence of several, and each half of one with a semicolon, where no field is shared.
            for joint in (r"(?<=[.!?])\s+", r";\s+"):
                parts, others = re.split(joint, message), re.split(joint, said)
                if len(parts) == len(others) > 1:
                    for part, other in zip(parts, others, strict=True):
                        if not FIELD.search(part) and not FIELD.search(other):
                            found.setdefault(part, other)
    return found


@dataclass
class Pattern:
    """A message with fields, as sentences are found by it."""

    message: str
    said: str
    names: list[str] = field(init=False)
    expression: re.Pattern[str] = field(init=False)
    letters: int = field(init=False)
    key: str = field(init=False)

    def __post_init__(self) -> None:
        self.message, self.said = _any_unit(self.message), _any_unit(self.said)
        pieces = FIELD.split(self.message)
        self.names, literal = pieces[1::4], pieces[::4]
        self.letters = sum(len(_LETTER.findall(piece)) for piece in literal)
        self.expression = re.compile(_expression(literal), re.DOTALL)
        # A sentence can only be of a pattern whose longest whole word it holds.
        words = [
            word
            for k, piece in enumerate(literal)
            for word in _WORD.finditer(piece)
            if (word.start() > 0 or k == 0) and (word.end() < len(piece) or k == len(literal) - 1)
        ]
        self.key = max((word.group() for word in words), key=len, default="").lower()

    @property
    def weak(self) -> bool:
        return self.letters < FEW_LETTERS

    @functools.cached_property
    def takes_sentences(self) -> list[bool]:
        """Of each field, whether a sentence may stand there: “Intake. {1}”, “{1} Choose fewer zones.”"""
        literal = FIELD.split(self.message)[::4]
        return [
            before.rstrip().endswith((".", ":", ";"))
            or (not before and after[:2].strip().isupper())
            for before, after in itertools.pairwise(literal)
        ]


def _expression(literal: list[str]) -> str:
    """How sentences are found that have something between these pieces. What was found up to a piece is not
    gone over again (atomic groups): a sentence takes as long as it is, however many fields there are."""
    made, unit = _spaced(literal[0]), ""
    for k, piece in enumerate(literal[1:], 1):
        if _LETTER.match(literal[k - 1][-1:]):
            unit += "(.*?)"  # An ending may be empty: “zone{2}”.
        elif k > 1 and not literal[k - 1]:
            unit += r"((?:(?:[,;:.(]| [(·]).*?)?)"  # What is added to another field, or not.
        else:
            unit += "(.+?)"
        unit += _spaced(piece)
        if k == len(literal) - 1:
            # The last piece stands at the end.
            made += unit.replace("(.+?)", "(.+)", 1) if unit.count("(") == 1 else unit
        elif piece:
            made += f"(?>{unit})"
            unit = ""
    return made


def _any_unit(message: str) -> str:
    """A message with its lengths as fields, so that a sentence is found in whichever unit it is written."""
    count = 0

    def field_of(found: re.Match[str]) -> str:
        nonlocal count
        if found[1] is not None:
            return f"{{{found[1]}}}"
        count += 1
        return f"{{_{count}}}"

    return _MEASURE.sub(field_of, message)


def _spaced(piece: str) -> str:
    return r"\s+".join(re.escape(part) for part in re.split(r"\s+", piece))


class Patterns:
    """The patterns of a language, to be asked which of them a sentence may be of."""

    def __init__(self, messages: dict[str, str]) -> None:
        self.by_word: dict[str, list[Pattern]] = {}
        for message, said in messages.items():
            if FIELD.search(_any_unit(message)):
                pattern = Pattern(message, said)
                if pattern.letters:
                    self.by_word.setdefault(pattern.key, []).append(pattern)

    def fitting(self, sentence: str) -> Iterator[tuple[Pattern, re.Match[str]]]:
        """Patterns that fit all of a sentence with what stands in their fields, the most telling first."""
        words = {word.lower() for word in _WORD.findall(sentence)} | {""}
        candidates = [each for word in words for each in self.by_word.get(word, ())]
        for pattern in sorted(candidates, key=lambda each: (-each.letters, -len(each.names))):
            if (match := pattern.expression.fullmatch(sentence)) is not None:
                yield pattern, match


@functools.cache
def patterns(language: str) -> Patterns:
    """The patterns that sentences of code are made by."""
    return Patterns(of(language, "words"))
