"""The texts of a template as messages, and a template with its texts in another language.

A message is what stands between two tags of HTML or two tags of the template language, or in an attribute
that is read (`READ`). Variables in it are ``{1}``, ``{2}``, in their order: ``in {1} thread{2}`` is said of
``in {{ n }} thread{{ n|pluralize }}``. A translation may use them in any order, leave them out, and give
the endings of a plural of its own: ``in {1} {2:draad,draden}``.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass

READ = (
    "aria-label", "aria-description", "aria-roledescription", "title", "placeholder", "alt", "content",
    "label", "data-ask", "data-label", "data-told", "data-unit", "data-find",
)  # fmt: skip
"""Attributes whose text somebody reads or hears."""
_TOKEN = re.compile(r"\{#.*?#\}|\{%\s*comment.*?endcomment\s*%\}|\{%.*?%\}|\{\{.*?\}\}", re.DOTALL)
_PLAIN_TAG = re.compile(r"</?(?:b|i|em|strong|kbd|small|sup|sub)>")
_TAG = re.compile(
    r"""(<!--.*?-->|<(script|style)\b.*?</\2>|<(?:[^>"']|"[^"]*"|'[^']*')*>)""", re.DOTALL
)
_ATTRIBUTE = re.compile(rf"""(?<=[\s\ue000-\uf8ff])({"|".join(READ)})="([^"]*)\"""")
_FIRST = 0xE000
"""Tokens of the template language stand in as one letter each of Unicode's private area, so that HTML is
read without them."""
_SAID = re.compile(
    r"""((?:\|(?:default|default_if_none|yesno)|\b(?:label|title|text|words|what|legend|name|say|sentence|hint|heading|empty|note))[:=]|\bpicture\s+[\w.]+\s+)"([^"]*)\""""
)
"""Words within a token: ``|default:"none yet"``, ``{% include … with label="Paper" %}``."""
_FIELD = re.compile(r"\{(\d+)(?::([^}]*))?\}")


def is_text(text: str) -> bool:
    """Whether there is something to read in a piece of a template."""
    return bool(re.search(r"[A-Za-z]", re.sub(r"&\w+;|</?\w+>", "", text)))


@dataclass
class Template:
    """The source of a template with its tokens taken out, and what they were."""

    text: str
    tokens: list[str]

    @classmethod
    def read(cls, source: str) -> Template:
        tokens: list[str] = []

        def out(found: re.Match[str]) -> str:
            tokens.append(found.group())
            return chr(_FIRST + len(tokens) - 1)

        text = _TOKEN.sub(out, source)
        return cls(_PLAIN_TAG.sub(out, text), tokens)

    def of(self, letter: str) -> str | None:
        """The token a letter stands for."""
        place = ord(letter) - _FIRST
        return self.tokens[place] if 0 <= place < len(self.tokens) else None

    def whole(self, text: str) -> str:
        """Text of this template with its tokens back in place."""
        return "".join(self.of(letter) or letter for letter in text)

    def pieces(self, text: str) -> Iterator[tuple[str, bool]]:
        """A stretch of text parted at the tags of the template language, and whether each may be said."""
        piece = ""
        for letter in text:
            token = self.of(letter)
            if token is not None and token.startswith(("{%", "{#")):
                yield piece, True
                yield letter, False
                piece = ""
            else:
                piece += letter
        yield piece, True

    def message(self, piece: str) -> tuple[str, list[str]]:
        """A piece as a message, and the variables it names."""
        variables: list[str] = []

        def named(letter: str) -> str:
            token = self.of(letter)
            if token is None or token.startswith("<"):
                return token or letter
            variables.append(token)
            return f"{{{len(variables)}}}"

        return " ".join("".join(named(letter) for letter in piece).split()), variables


def _walk(template: Template, text: str, say: Callable[[str, bool], str]) -> str:
    """The text with each piece of it that is read replaced by what *say* makes of it (the flag: whether
    it stands in an attribute)."""

    def attribute(found: re.Match[str]) -> str:
        return f'{found[1]}="{"".join(say(p, True) if s else p for p, s in template.pieces(found[2]))}"'

    made, at, kept = [], 0, False
    for found in _TAG.finditer(text):
        # What stands in a field is sent back as it is.
        before = text[at : found.start()]
        made += (
            [before] if kept else [say(p, False) if s else p for p, s in template.pieces(before)]
        )
        tag = found.group()
        kept = tag.startswith("<textarea")
        made.append(tag if found[2] or tag.startswith("<!--") else _ATTRIBUTE.sub(attribute, tag))
        at = found.end()
    made += [say(p, False) if s else p for p, s in template.pieces(text[at:])]
    return "".join(made)


def messages(source: str) -> list[str]:
    """The messages of a template, in their order."""
    template, found = Template.read(source), []

    def say(piece: str, _attribute: bool) -> str:
        message, _ = template.message(piece)
        if is_text(re.sub(r"\{\d+\}", "", message)):
            found.append(message)
        return piece

    _walk(template, template.text, say)
    found += [
        words[2]
        for token in template.tokens
        for words in _SAID.finditer(token)
        if is_text(words[2])
    ]
    return found


def put_in(source: str, translated: Callable[[str], str], shown: Callable[[str], str]) -> str:
    """The source of a template in another language: *translated* says a message, *shown* makes of a
    variable that is read one that is told in that language."""
    template = Template.read(source)

    def say(piece: str, attribute: bool) -> str:
        message, variables = template.message(piece)

        def field(found: re.Match[str]) -> str:
            variable = variables[int(found[1]) - 1]
            if found[2] is not None:
                return re.sub(r'\|pluralize(?::"[^"]*")?', f'|pluralize:"{found[2]}"', variable)
            return shown(words_of(variable))

        said = translated(message) if is_text(re.sub(r"\{\d+\}", "", message)) else message
        if not said.strip():
            return piece
        before = piece[: len(piece) - len(piece.lstrip())]
        after = piece[len(piece.rstrip()) :]
        return before + _FIELD.sub(field, said) + after

    def words_of(token: str) -> str:
        return _SAID.sub(lambda found: f'{found[1]}"{translated(found[2])}"', token)

    made = _walk(template, template.text, say)
    return "".join(
        words_of(token)
        if (token := template.of(letter)) and token.startswith("{%")
        else token or letter
        for letter in made
    )
