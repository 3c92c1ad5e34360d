"""What probably went wrong where the values of a datasheet contradict one another."""

from collections.abc import Mapping
from typing import Any

USUAL_VOC_COEFFICIENT = (-0.5, -0.15)  # %/K
USUAL_POWER_COEFFICIENT = (-0.6, -0.15)  # %/K
USUAL_ISC_COEFFICIENT = (0.005, 0.15)  # %/K
CLOSE = 0.05


def likely_slip(values: Mapping[str, Any], kind: str) -> str:
    """The likely slip in words, empty where none is recognised. Values may be missing or out of any range."""
    given = {key: float(v) for key, v in values.items() if isinstance(v, (int, float)) and not isinstance(v, bool)}
    find = {"modules": _module_slips, "inverters": _inverter_slips}.get(kind)
    return " ".join(find(given)) if find else ""


def _module_slips(v: Mapping[str, float]) -> list[str]:
    found = []
    power, isc, voc, imp, vmp = (v.get(key) for key in ("power", "isc", "voc", "imp", "vmp"))
    if isc and imp and imp > isc:
        found.append("Isc and Imp seem to be swapped.")
    if voc and vmp and vmp > voc:
        found.append("Voc and Vmp seem to be swapped.")
    if power and imp and vmp:
        product = imp * vmp
        if abs(product / (1000 * power) - 1) < CLOSE:
            found.append(f"The power seems to be in kW: {power:g} kW are {1000 * power:g} W.")
        elif isc and voc and abs(isc * voc / power - 1) < CLOSE:
            found.append("The power is that of Isc × Voc; the rated power is Imp × Vmp.")
        elif abs(product / power - 1) > CLOSE and imp > 0 and 0.5 < product / power < 2:
            found.append(f"Imp × Vmp is {product:.0f} W.")
    for field, name, usual in (
        ("voc_coefficient", "Voc", USUAL_VOC_COEFFICIENT),
        ("power_coefficient", "power", USUAL_POWER_COEFFICIENT),
        ("isc_coefficient", "Isc", USUAL_ISC_COEFFICIENT),
    ):
        value = v.get(field)
        if value is None or value == 0 or usual[0] <= value <= usual[1]:
            continue
        base = {"voc_coefficient": voc, "power_coefficient": power, "isc_coefficient": isc}[field]
        unit = {"voc_coefficient": "V/K", "power_coefficient": "W/K", "isc_coefficient": "A/K"}[field]
        if usual[0] <= -value <= usual[1]:
            found.append(f"The sign of the {name} coefficient seems to be lost: {-value:g} %/K is usual.".replace("-", "\u2212"))
        elif base and usual[0] <= value / base * 100 <= usual[1]:
            found.append(f"The {name} coefficient seems to be in {unit}: {value / base * 100:.3f} %/K.".replace("-", "\u2212"))
        elif base and usual[0] <= value / 1000 / base * 100 <= usual[1]:
            found.append(
                f"The {name} coefficient seems to be in m{unit}: {value / 1000 / base * 100:.3f} %/K.".replace("-", "\u2212")
            )
    for field in ("length", "width"):
        if (size := v.get(field)) and 300 <= size <= 4000:
            found.append(f"The {field} seems to be in mm: {size / 1000:g} m.")
    return found


def _inverter_slips(v: Mapping[str, float]) -> list[str]:
    found = []
    ac, dc = v.get("ac_power"), v.get("maximum_dc_power")
    voltage, current = v.get("mppt_maximum"), v.get("maximum_tracker_current")
    if ac and voltage and current and ac < 400 and voltage * current * v.get("trackers", 1) > 20 * ac:
        found.append(f"The AC power seems to be in kW: {ac:g} kW are {1000 * ac:g} W.")
    if dc and ac and dc < 1000 <= ac:
        found.append(f"The DC power seems to be in kW: {dc:g} kW are {1000 * dc:g} W.")
    for field in ("peak_efficiency", "european_efficiency"):
        if (share := v.get(field)) and share <= 1:
            found.append(f"The {field.replace('_', ' ')} seems to be a share: {100 * share:g} %.")
    if (start := v.get("start_voltage")) and voltage and start > voltage:
        found.append("The start voltage is over the MPP window.")
    return found
