"""Templates in the language of the page: read as they are written, their texts put in as they are loaded."""

from __future__ import annotations

import re

from django.template import Origin
from django.template.loaders import cached

from studio.languages.catalogue import SOURCE, of
from studio.languages.pages import put_in
from studio.languages.telling import spoken

AS_WRITTEN = re.compile(
    r"""^\{\{\s*(?:
        (?:core|job|document|each\.job|letter\.job|part\.job)\.(?:title|client|studio)\b
        | (?:each|move|part)\.promise\.title | part\.title | studio | studio\.name | request\.studio
        | (?:letter|mail)\. | each\.studio | invitation\.studio
        | each\.(?:email|person|note|rest)\b | each\.facts\s*[|}] | user\. | client\b
        | intake\.(?:contact|backing\.note|wishes\.(?:note|budget|occasion|style)) | typed\.
        | page\.body | spelled\b | number\b | link\.address | (?:quote|each)\.accepted\.name
        | field\.value | form\.seen | levels\.management_form
    )|\|\s*(?:safe|as_written|linebreaks|linebreaksbr|urlize)\b""",
    re.VERBOSE,
)
"""Variables that hold what somebody wrote, which is said in nobody's other words."""
NAMED = re.compile(r"^\{\{\s*(?:line|group|tile|entry|spot\.entry|each\.entry)\.name\b")
"""Names of entries of a legend: the quilter's own, or a design's, which is said as a whole or not at all."""
_ELSE = re.compile(r"\|default(?:_if_none)?:[\w.]+")
_VARIABLE = re.compile(r"^\{\{\s*([^|}]+?)\s*((?:\|.*)?)\}\}$", re.DOTALL)


def shown(token: str) -> str:
    """A variable that is read, with its sentence told in the language of the page; what is only filtered
    afterwards (in another unit, with a capital) is told before."""
    if AS_WRITTEN.search(token):
        return token
    found = _VARIABLE.match(token)
    if not found or found[1][0] in "\"'0123456789":
        return token
    tell = "told_whole" if NAMED.search(token) else "told"
    filters = _ELSE.sub(r"\g<0>|told", found[2].strip())
    return f"{{{{ {found[1]}|{tell}{filters}|figured }}}}"


class Loader(cached.Loader):
    """The templates of all other loaders, kept for each language apart."""

    def cache_key(self, template_name: str, skip: list[Origin] | None = None) -> str:
        return f"{spoken()}:{super().cache_key(template_name, skip)}"

    def get_contents(self, origin: Origin) -> str:
        source = super().get_contents(origin)
        language = spoken()
        if language == SOURCE or "/admin/" in str(origin.name):
            return source
        messages = of(language, "pages")
        return put_in(source, lambda message: messages.get(message, message), shown)
