"""Sources that are turned by hand, page by page: documents, and text that is set on the spot; and clocks."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from ushering_adze.core.document.model import Model


class Mark(Model):
    """Seconds from which a timer is amber, and red."""

    amber: Annotated[float, Field(ge=0, le=86400)] = 60.0
    red: Annotated[float, Field(ge=0, le=86400)] = 15.0


TimeOfDay = Annotated[
    str, Field(pattern=r"^([01]?\d|2[0-3]):[0-5]\d(:[0-5]\d)?$", description="like 20:00 or 20:00:30")
]
