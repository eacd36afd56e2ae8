"""The guide in docs/guide as pages, in the language of the page: laid out from its Markdown, searched by its
paragraphs. A language has its pages in a folder of its own, under the same names."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from django.conf import settings
from django.urls import reverse
from django.utils.safestring import SafeString, mark_safe
from django.utils.text import slugify
from markdown_it import MarkdownIt

from chorograph_core.measure import in_units
from studio.languages import figures
from studio.languages.catalogue import SOURCE
from studio.languages.telling import spoken

FOLDER = settings.HOME / "docs" / "guide"
PICTURES = (settings.HOME / "docs" / "screenshots", settings.HOME / "docs")
ORDER = (
    "first-hours",
    "charting",
    "choosing",
    "motifs",
    "ruler-work",
    "route",
    "at-the-machine",
    "log",
    "the-studio",
)
STAGES = {
    "intake": "first-hours", "chart": "charting", "zones": "charting", "designs": "choosing",
    "route": "route", "quote": "the-studio", "stitch": "at-the-machine", "log": "log", "finish": "log",
    "balance": "choosing", "audition": "choosing", "thread": "the-studio", "book": "log",
    "more": "the-studio",
}  # fmt: skip
"""Which page of the guide stands beside a stage of a job."""
MOST = 20


@dataclass(frozen=True)
class Page:
    """A page of the guide: its *key*, *title*, the *body* laid out, and its *paragraphs* as (heading, its
    anchor, text)."""

    key: str
    title: str
    body: SafeString
    paragraphs: tuple[tuple[str, str, str], ...]


@dataclass(frozen=True)
class Found:
    """A paragraph that holds all the words that were looked for."""

    page: Page
    heading: str
    anchor: str
    text: str


def pages(units: str = "in") -> dict[str, Page]:
    """All pages, in the order in which one reads them, in a studio's *units*."""
    return _pages(units, spoken())


@lru_cache(maxsize=4)
def _pages(units: str, language: str) -> dict[str, Page]:
    found = {path.stem: path for path in sorted(FOLDER.glob("*.md"))}
    if language != SOURCE:
        found |= {path.stem: path for path in (FOLDER / language).glob("*.md")}
    keys = [*(key for key in ORDER if key in found), *(key for key in found if key not in ORDER)]
    return {key: _page(key, found[key], units, language) for key in keys}


def _page(key: str, path: Path, units: str, language: str) -> Page:
    text = figures.in_text(in_units(path.read_text(encoding="utf-8"), units), language)
    markdown = MarkdownIt("commonmark", {"html": False}).enable("table")
    tokens = markdown.parse(text)
    title, heading, anchor = key, "", ""
    paragraphs = []
    for k, token in enumerate(tokens):
        if token.type == "heading_open":
            heading = tokens[k + 1].content
            anchor = slugify(heading)
            title = heading if token.tag == "h1" else title
            token.attrSet("id", anchor)
        elif token.type == "inline":
            for child in token.children or []:
                _aimed(child)
            if tokens[k - 1].type != "heading_open":
                paragraphs.append((heading, anchor, _plain(token.content)))
    body = markdown.renderer.render(tokens, markdown.options, {})
    # The guide ships with the application, and its Markdown holds no HTML.
    return Page(key, title, mark_safe(body), tuple(paragraphs))


def _aimed(token) -> None:
    """Links and pictures lead to pages of the application; what lies elsewhere in the docs leads nowhere."""
    if token.type == "image":
        name = Path(str(token.attrGet("src"))).name
        token.attrSet("src", reverse("help-picture", args=[name]))
        token.attrSet("loading", "lazy")
    elif token.type == "link_open":
        target = str(token.attrGet("href"))
        page = re.fullmatch(r"([\w-]+)\.md(#[\w-]+)?", target)
        if page:
            token.attrSet("href", reverse("help-page", args=[page[1]]) + (page[2] or ""))
        elif not target.startswith("#"):
            token.attrSet("href", reverse("help"))


def _plain(text: str) -> str:
    text = re.sub(r"!?\[([^\]]*)\]\([^)]*\)", r"\1", text)
    return re.sub(r"[*`|]", "", text)


def search(words: str, units: str = "in") -> list[Found]:
    """Paragraphs that hold all *words*, those whose heading does first."""
    wanted = [word for word in re.findall(r"\w+", words.lower()) if len(word) > 1][:8]
    if not wanted:
        return []
    found = []
    for page in pages(units).values():
        for heading, anchor, text in page.paragraphs:
            whole = f"{heading} {text}".lower()
            if all(word in whole for word in wanted):
                rank = sum(word in heading.lower() for word in wanted)
                found.append((-rank, Found(page, heading, anchor, text)))
    return [each for _, each in sorted(found, key=lambda pair: pair[0])][:MOST]


def picture_of(name: str) -> Path | None:
    """The file of a picture in the guide; None for a name that is none of them."""
    if not re.fullmatch(r"[\w-]+\.png", name):
        return None
    return next((folder / name for folder in PICTURES if (folder / name).is_file()), None)
