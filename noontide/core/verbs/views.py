"""What can be done to the views of a design that are kept."""

from typing import Any

from noontide.core.angles import wind
from noontide.core.calendar import MONTHS
from noontide.core.design import Design
from noontide.core.design.kept_view import KeptView
from noontide.core.design.naming import fresh, unlike

PLAN = 75.0  # elevation of the eye from which a view is seen from above [°]


def keep_view(design: Design, given: KeptView) -> tuple[dict[str, Any], str]:
    """A view under a fresh id; what nobody named is called by where the eye stands and what it sees."""
    view = given.model_dump(mode="json", exclude_unset=True)
    view["name"] = given.name or unlike(_name_of(given), [one.name for one in design.views.values()])
    return {"views": {fresh("view", design.views): view}}, f"{view['name']} is kept; reports show it."


def _name_of(view: KeptView) -> str:
    place = "From above" if view.elevation >= PLAN else f"From the {wind(view.azimuth)}"
    when = f" in {MONTHS[view.month - 1]}" if view.month else ""
    return place if view.quantity == "as built" else f"{place}, {view.quantity}{when}"
