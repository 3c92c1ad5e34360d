"""Lists of models, under a name of their own in the API schema."""

from pydantic import BaseModel, RootModel


def list_of(shape: type[BaseModel]) -> type[RootModel]:
    """A model of a list of `shape`."""
    bases: tuple = (RootModel[list[shape]],)  # type: ignore[valid-type]
    return type(
        f"{shape.__name__}List",
        bases,
        {"__doc__": f"Several of {shape.__name__}.", "__module__": shape.__module__},
    )  # type: ignore[valid-type]
