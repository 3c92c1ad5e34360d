"""A way to look at the scene that is kept with the design: the drawing goes back to it, and reports show it."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from noontide.core.fields import Document, Line, choice, quantity

ViewQuantity = Literal["as built", "solar access", "irradiation", "orientation", "solar resource"]
MINUTES_OF_YEAR = 366 * 1440
Minute = Annotated[int, Field(ge=0, le=MINUTES_OF_YEAR)]


class KeptView(Document):
    """Where the eye stands, what the colours of the modules show, and when."""

    name: Line = Field("", max_length=80, title="Name of the view")
    azimuth: float = quantity(215.0, "Direction from which the scene is seen", "°", 0, 360)
    elevation: float = quantity(38.0, "Height of the eye over the horizontal", "°", 0, 90)
    quantity: ViewQuantity = choice("solar access", "What the colours show")
    month: int | None = Field(None, ge=1, le=12, title="Month of the colours; the year where it is left out")
    span: tuple[Minute, Minute] | None = Field(None, title="Minutes of the year between which the light is counted")

    @model_validator(mode="after")
    def _has_one_time(self) -> Self:
        if self.month is not None and self.span is not None:
            raise ValueError("A view shows a month or a span of the year. Take one of the two out.")
        if self.span is not None and self.span[0] >= self.span[1]:
            raise ValueError("The span of a view ends after it begins.")
        return self
