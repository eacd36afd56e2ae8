"""A sentence of the code, as it is told in the language of the page.

The core speaks English sentences, and they are kept, cached and sent as such: a plan of last week speaks
another language today. Only where a sentence is shown is it found among the patterns it was made by, and
said anew with what stands in it. What is of no pattern (a name, a note of the quilter's) stays as it is.
"""

from __future__ import annotations

import functools
import re
from typing import Any

from django.db.models import Model
from django.utils.functional import Promise
from django.utils.safestring import SafeString
from django.utils.translation import get_language

from studio.languages import figures
from studio.languages.catalogue import FIELD, NAMES, SOURCE, of, patterns

_BREAKS = [
    re.compile(each)
    for each in (
        r"(\n+)",
        r"((?<=[.!?…])\s+)",
        r"(;\s+)",
        r"( · )",
        r"(:\s+)",
        r"(,\s+)",
        r"( \(|\)| – |“|”)",
    )
]
"""Where a text that was put together is taken apart, the loosest joints first."""
COMMAS = 5
LONGEST_PHRASE = 4
"""Pieces between commas that may be one phrase of ours: “In the middle of the block, as numbered”."""
_JOINED = re.compile(r"(\s+(?:and|or)\s+)")
_ENDS = re.compile(r"(.*?)([.:;,…!?]+)", re.DOTALL)
_SENTENCES = re.compile(r"[.!?…]\s+\S")
_COUNT = re.compile(r"(\d[\d.,]*) (.+)")
_FIGURE = re.compile(r"[\d\W]*")
LONGEST = 700
"""Letters of a text that may be one sentence of ours."""
MOST_TRIES = 1500
"""Patterns that are looked into for one text; ours take some dozens."""
_AROUND = " ,;:.()“”"
_PIECES = re.compile(r",\s+|;\s+|:\s+| · ")


def spoken() -> str:
    """The language of what is being written: one of `NAMES`."""
    language = (get_language() or SOURCE).split("-")[0]
    return language if language in NAMES else SOURCE


def told(text: Any) -> Any:
    """A sentence or label of the code in the language of the page; anything else as it is."""
    if isinstance(text, (Promise, Model, Exception)):
        text = str(text)
    if isinstance(text, (list, tuple)) and all(isinstance(each, str) for each in text):
        return [told(each) for each in text]
    if not isinstance(text, str) or isinstance(text, SafeString) or not text:
        return text
    language = spoken()
    if language == SOURCE:
        return text
    said = _told(text, language)
    # A note keeps its points and commas as well.
    return figures.in_text(said, language) if said != text or _is_measure(text, language) else text


def told_whole(text: Any) -> Any:
    """A name that is ours as a whole; anything else as it is."""
    if not isinstance(text, str) or isinstance(text, SafeString) or spoken() == SOURCE:
        return text
    return of(spoken(), "words").get(text, text)


def told_all(data: Any, keys: frozenset[str] | None = None) -> Any:
    """The same for what is sent to scripts: lists and objects with sentences in them; of objects only under
    *keys*, where they are given."""
    return data if spoken() == SOURCE else _all(data, keys, keys is None)


def _all(data: Any, keys: frozenset[str] | None, inside: bool) -> Any:
    if isinstance(data, dict):
        return {
            key: _all(each, keys, inside or (keys is not None and key in keys))
            for key, each in data.items()
        }
    if isinstance(data, (list, tuple)):
        return [_all(each, keys, inside) for each in data]
    return told(data) if inside else data


def _is_measure(text: str, language: str) -> bool:
    """Whether a text is nothing but figures with what they count: “1,021 yd”, “12.9 h”."""
    words = re.findall(r"[^\W\d_²]+", text)
    return all(word in figures.beside_figures(language) for word in words)


@functools.lru_cache(maxsize=50_000)
def _told(text: str, language: str) -> str:
    return _Teller(language).told(text)


class _Teller:
    """Finds one sentence again, and the phrases in it, each once; what takes too long is left as it is (it is
    somebody's own, long and odd)."""

    def __init__(self, language: str) -> None:
        self.language = language
        self.messages = of(language, "words")
        self.found: dict[tuple[str, bool], str | None] = {}
        self.ours: dict[str, bool] = {}
        self.said: dict[str, str | None] = {}
        self.tries = MOST_TRIES

    def told(self, text: str) -> str:
        bare = text.strip()
        if bare not in self.said:
            self.said[bare] = self.say(bare)
        said = self.said[bare]
        return text if said is None else text.replace(bare, said, 1)

    def say(self, text: str) -> str | None:
        """What is said for a text; None where nothing of it is ours."""
        if not text or _FIGURE.fullmatch(text):
            return None
        if "\n\n" in text:
            return "\n\n".join(self.told(each) for each in text.split("\n\n"))
        ways = (
            self.known,
            self.of_a_pattern,
            self.counted,
            self.about,
            self.ended,
            self.in_parts,
            self.joined,
        )
        return next((said for way in ways if (said := way(text)) is not None), None)

    def known(self, text: str) -> str | None:
        """A message without fields, whether it begins with a capital here or not."""
        if not text:
            return None
        said = self.messages.get(" ".join(text.split()))
        if said is not None:
            return said
        turned = text[0].lower() + text[1:] if text[0].isupper() else text[0].upper() + text[1:]
        said = self.messages.get(" ".join(turned.split()))
        if said is None:
            return None
        return said[0].upper() + said[1:] if text[0].isupper() else said[0].lower() + said[1:]

    def of_a_pattern(self, text: str, phrase: bool = False) -> str | None:
        """A message with fields, with what stands in them told as well."""
        if not text or len(text) > LONGEST:
            return None
        if (text, phrase) not in self.found:
            self.found[text, phrase] = self._of_a_pattern(text, phrase)
        return self.found[text, phrase]

    def _of_a_pattern(self, text: str, phrase: bool) -> str | None:
        for turned in dict.fromkeys((text, text[0].lower() + text[1:])):
            for pattern, match in patterns(self.language).fitting(turned):
                given = match.groups()
                self.tries -= 1
                if self.tries < 0:
                    return None
                if phrase and any(", " in value for value in given):
                    continue
                # Another sentence is no part of a phrase, except where a pattern ends or begins with one.
                if any(
                    _SENTENCES.search(value) and not takes
                    for value, takes in zip(given, pattern.takes_sentences, strict=True)
                ):
                    continue
                if pattern.weak and not all(self.is_ours(value) for value in given):
                    continue
                values: dict[str, str] = {}
                for name, value in zip(pattern.names, given, strict=True):
                    values.setdefault(name, self.told(value))
                said = FIELD.sub(functools.partial(_put_in, values), pattern.said)
                return said if turned == text else said[:1].upper() + said[1:]
        return None

    def is_ours(self, value: str) -> bool:
        """Whether what stands in a field is figures, or words of ours throughout."""
        if value not in self.ours:
            self.ours[value] = False
            self.ours[value] = self._is_ours(value)
        return self.ours[value]

    def _is_ours(self, value: str) -> bool:
        whole = value.strip(_AROUND)
        if self.known(whole) is not None or self.of_a_pattern(whole) is not None:
            return True
        for piece in filter(None, (each.strip(_AROUND) for each in _PIECES.split(value))):
            words = re.sub(r"[\d\W_]+", " ", piece).split()
            beside = figures.beside_figures(self.language)
            figure = all(word in beside or len(word) == 1 for word in words)
            if not figure and self.known(piece) is None and self.of_a_pattern(piece) is None:
                return False
        return True

    def counted(self, text: str) -> str | None:
        """So many of something: “3 squares”."""
        found = _COUNT.fullmatch(text)
        said = found and self.known(found[2])
        return f"{found[1]} {said}" if found and said else None

    def about(self, text: str) -> str | None:
        """What a sentence is about, and the sentence: “bad.jpg: This is no picture.”"""
        about, colon, rest = text.partition(": ")
        if not colon or not rest:
            return None
        said = self.known(rest) or self.of_a_pattern(rest)
        return None if said is None else f"{self.told(about)}: {said}"

    def ended(self, text: str) -> str | None:
        """A phrase that was given its full stop."""
        ends = _ENDS.fullmatch(text)
        if ends is None or not ends[1] or any(joint.search(ends[1]) for joint in _BREAKS[:COMMAS]):
            return None
        said = self.say(ends[1])
        return None if said is None else said + ends[2]

    def in_parts(self, text: str) -> str | None:
        """A text that was put together: sentence by sentence, phrase by phrase."""
        for level, joint in enumerate(_BREAKS):
            parts = joint.split(text)
            if len(parts) == 1:
                continue
            if level == COMMAS:
                return self.phrases(parts)
            made = [part if k % 2 else self.told(part) for k, part in enumerate(parts)]
            return "".join(made) if made != parts else None
        return None

    def phrases(self, parts: list[str]) -> str | None:
        """Pieces between commas, of which some may belong together as one phrase: the longest first."""
        made, at = [], 0
        while at < len(parts):
            for end in range(min(len(parts), at + 2 * LONGEST_PHRASE - 1), at, -2):
                phrase = "".join(parts[at:end])
                if end - at == 1:
                    made.append(self.told(phrase))
                elif end - at < len(parts) and (
                    said := self.known(phrase) or self.of_a_pattern(phrase, phrase=True)
                ):
                    made.append(said)
                else:
                    continue
                break
            made += parts[end : end + 1]
            at = end + 1
        whole = "".join(made)
        return whole if whole != "".join(parts) else None

    def joined(self, text: str) -> str | None:
        """One thing *and* another, where all of them are ours: a name may hold an “and” as well."""
        parts = _JOINED.split(text)
        if len(parts) == 1 or not all(self.is_ours(part) for part in parts[::2]):
            return None
        return "".join(self.told(part) for part in parts)


def _put_in(values: dict[str, str], found: re.Match[str]) -> str:
    value = values.get(found[1], "")
    if found[2] is None:
        return value
    return found[2] if value in ("", "is", "y") else found[3]
