"""The messages of templates, code and scripts written into the catalogues of each language, and compiled.

What was said for a message is kept; messages that are gone leave; new ones wait for their translation.
"""

from __future__ import annotations

import io
import re
from collections.abc import Iterable, Iterator
from pathlib import Path

from babel.messages.catalog import Catalog
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po, write_po

from studio.languages import pages, words
from studio.languages.catalogue import LOCALES, NAMES, SOURCE

STUDIO = Path(__file__).parents[1]
HOUSE = STUDIO.parent
NO_PAGE_TEXT = re.compile(r"^[\w-]+=|^(?:grid-cols|width=)|^noindex|^Chorograph$")


def of_pages() -> Iterator[tuple[str, str]]:
    """Messages of templates, each with the file it stands in."""
    for path in sorted((STUDIO / "templates").rglob("*")):
        if path.suffix in (".html", ".txt"):
            for message in pages.messages(path.read_text()):
                if not NO_PAGE_TEXT.match(message):
                    yield message, str(path.relative_to(HOUSE))


def of_words() -> Iterator[tuple[str, str]]:
    """Messages of code, and of what is data beside it."""
    for path in words.files([HOUSE / "chorograph_core", STUDIO]):
        for message in words.messages_of(path.read_text()):
            yield message, str(path.relative_to(HOUSE))
    for message, where in words.beside():
        yield message, where


def of_scripts() -> Iterator[tuple[str, str]]:
    """Messages of scripts: what they have `spoken`."""
    for path in sorted((STUDIO / "assets").glob("*.js")):
        source = path.read_text()
        for found in re.finditer("spoken`", source):
            yield _template(source, found.end())[0], str(path.relative_to(HOUSE))


def _template(source: str, at: int) -> tuple[str, int]:
    """The text of a template of a script that begins at a place, what is put in as ``{1}``, ``{2}``; and
    where it ends."""
    text, count = "", 0
    while source[at] != "`":
        if source.startswith("${", at):
            count, at, depth = count + 1, at + 2, 1
            text += f"{{{count}}}"
            while depth:
                if source[at] == "`":
                    at = _template(source, at + 1)[1] - 1
                depth += {"{": 1, "}": -1}.get(source[at], 0)
                at += 1
        else:
            text += source[at]
            at += 1
    return text, at + 1


HEADERS = {
    "pages": "What stands in templates.",
    "words": "Sentences and labels of the code; {1} is what is put in.",
    "scripts": "What scripts say.",
}
KEPT = (
    "Language:",
    "Plural-Forms:",
    "MIME-Version:",
    "Content-Type:",
    "Content-Transfer-Encoding:",
)
"""Lines of a catalogue's head that say something; hours, authors and tools do not."""
DOMAINS = {"pages": of_pages, "words": of_words, "scripts": of_scripts}


def file_of(language: str, domain: str) -> Path:
    """Where a catalogue lies."""
    return LOCALES / language / "LC_MESSAGES" / f"{domain}.po"


def read(language: str, domain: str) -> dict[str, str]:
    """What is said for each message."""
    path = file_of(language, domain)
    if not path.exists():
        return {}
    with path.open("rb") as file:
        return {str(each.id): str(each.string) for each in read_po(file) if each.id and each.string}


def write(
    language: str, domain: str, said: dict[str, str], messages: Iterable[tuple[str, str]]
) -> list[str]:
    """Write a catalogue and what programs read of it; the messages that wait for their translation."""
    places: dict[str, set[str]] = {}
    for message, where in messages:
        places.setdefault(message, set()).add(where)
    catalog = Catalog(
        locale=language,
        domain=domain,
        fuzzy=False,
        charset="utf-8",
        header_comment=f"# {HEADERS[domain]}",
    )
    for message in sorted(places):
        catalog.add(
            message, said.get(message, ""), [(where, None) for where in sorted(places[message])]
        )
    path = file_of(language, domain)
    path.parent.mkdir(parents=True, exist_ok=True)
    text = io.BytesIO()
    write_po(text, catalog, width=110, sort_output=True, omit_header=False)
    head, _, rest = text.getvalue().decode().partition("\n\n")
    lines = [line for line in head.splitlines() if line[:1] != '"' or line[1:].startswith(KEPT)]
    path.write_text("\n".join([*lines, "", rest.rstrip(), ""]))
    with path.with_suffix(".mo").open("wb") as file:
        write_mo(file, catalog)
    return [message for message in sorted(places) if message not in said]


def gather() -> dict[tuple[str, str], list[str]]:
    """Write all catalogues anew; what waits for its translation, by language and domain."""
    waiting = {}
    for language in NAMES:
        if language != SOURCE:
            for domain, messages in DOMAINS.items():
                waiting[language, domain] = write(
                    language, domain, read(language, domain), messages()
                )
    return waiting
