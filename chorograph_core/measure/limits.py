"""What stored values may be, as annotations: reader, writer and schema of the archive obey them."""

from __future__ import annotations

from typing import Annotated

from msgspec import Meta

Name = Annotated[str, Meta(max_length=200)]
Key = Annotated[str, Meta(max_length=60)]
Note = Annotated[str, Meta(max_length=2000)]
Day = Annotated[str, Meta(max_length=10)]
"""A day as YYYY-MM-DD, or empty."""
Colour = Annotated[str, Meta(pattern="^#[0-9a-fA-F]{6}$")]
Share = Annotated[float, Meta(ge=0, le=1)]
Positive = Annotated[float, Meta(gt=0)]
NotNegative = Annotated[float, Meta(ge=0)]
Harm = Annotated[float, Meta(ge=1, le=100)]
