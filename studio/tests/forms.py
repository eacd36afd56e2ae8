"""The forms of a page, as a browser would send them."""

from __future__ import annotations

from dataclasses import dataclass, field
from html.parser import HTMLParser

UNTYPED = {"checkbox", "radio", "file", "submit", "button", "image", "reset", "hidden", "password"}


@dataclass
class PageForm:
    """Where a form goes, what it would send as it stands, and which of that is typed."""

    action: str
    values: dict[str, str] = field(default_factory=dict)
    typed: set[str] = field(default_factory=set)


class _Forms(HTMLParser):
    def __init__(self) -> None:
        super().__init__()
        self.found: list[PageForm] = []
        self._open: PageForm | None = None
        self._select, self._area = "", ""

    def handle_starttag(self, tag, attrs):
        given = dict(attrs)
        name = given.get("name") or ""
        if tag == "form":
            action = given.get("hx-post") or given.get("action") or ""
            posts = "hx-post" in given or (given.get("method") or "").lower() == "post"
            self._open = PageForm(action) if posts else None
            self.found += [self._open] if self._open else []
        if self._open is None or "disabled" in given:
            return
        if tag == "input" and name:
            kind = (given.get("type") or "text").lower()
            if kind in ("checkbox", "radio") and "checked" not in given:
                return
            if kind not in ("file", "submit", "button", "image", "reset"):
                self._open.values[name] = given.get("value") or ""
            if kind not in UNTYPED:
                self._open.typed.add(name)
        elif tag == "select":
            self._select = name
        elif tag == "option" and self._select:
            if "selected" in given or self._select not in self._open.values:
                self._open.values[self._select] = given.get("value") or ""
        elif tag == "textarea" and name:
            self._area = name
            self._open.values[name] = ""
            self._open.typed.add(name)

    def handle_data(self, data):
        if self._open is not None and self._area:
            self._open.values[self._area] += data

    def handle_endtag(self, tag):
        if tag == "form":
            self._open = None
        elif tag == "select":
            self._select = ""
        elif tag == "textarea":
            self._area = ""


def forms_in(page: str) -> list[PageForm]:
    """All forms of *page* that are posted."""
    reader = _Forms()
    reader.feed(page)
    return reader.found
