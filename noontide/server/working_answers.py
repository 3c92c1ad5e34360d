"""The working of a figure, as the API answers it."""

from pydantic import BaseModel, ConfigDict, Field


class InputAnswer(BaseModel):
    model_config = ConfigDict(from_attributes=True)

    symbol: str
    name: str
    value: float | str
    unit: str
    origin: str
    pointer: str


class FactWorking(BaseModel):
    """Equation, inputs, source and value of a figure that belongs to no revision."""

    model_config = ConfigDict(from_attributes=True)

    key: str
    title: str
    value: float | str = Field(description="a word where the figure has no value")
    unit: str
    equation: str
    inputs: list[InputAnswer]
    steps: list[InputAnswer]
    source: str
    note: str
    quantity: str
