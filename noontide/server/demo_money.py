"""Who uses the energy in the demo, at what price, and what the plants cost: all made up."""

from noontide.server.demand_library.storing import store
from noontide.standins.meter import dairy_file
from noontide.tariffs import built_in_tariffs


def dairy_meter() -> dict:
    """The dairy's meter as a source of demand; its file goes to the library."""
    row = store(dairy_file(), "Dairy meter 2025.csv", None, "Europe/Rome")
    return {"name": "Dairy", "interval": {"digest": row.digest, "title": row.title}}


def tariff(key: str) -> dict:
    """One of the tariffs that ship, as a design keeps it."""
    return built_in_tariffs()[key].model_dump(mode="json", exclude_unset=True)


# A dairy with a meter that keeps every quarter of an hour, and the farmhouse beside it.
ALDERMOOR_MONEY = {
    "demand": {"sources": {"house": {"name": "Farmhouse", "per_area": {"use": 28, "area": 180, "shape": "household"}}}},
    "money": {
        "tariff": tariff("dairy-demand"),
        "costs": {
            "mounting": {"name": "Mounting and work", "amount": 390, "per": "kW"},
            "board": {"name": "Board and connection", "amount": 2400},
        },
        "upkeep": {"operation": {"name": "Operation and insurance", "amount": 1.2, "per": "% of purchase"}},
        "replacements": {"inverters": {"name": "Inverters", "amount": 95, "per": "kW", "every": 13}},
    },
}
# A battery against the dairy's demand charge, and one for the dear hours of the cottage.
ALDERMOOR_STORAGE = {
    "storage": {"bank": {"model": "tarnhelm-40", "price": 420}, "peak": {}, "serves": "dear hours", "reserve": 10}
}
WEIR_STORAGE = {"storage": {"bank": {"model": "pellworth-5"}, "serves": "dear hours"}}
# The hut without a grid: three days by the worksheet, and a small generator for the rest.
SALTWICK_OFF_GRID = {
    "demand": {
        "sources": {
            "hut": {
                "name": "Hut",
                "appliances": {
                    "margin": 15,
                    "items": {
                        "light": {"name": "Lights", "number": 8, "power": 9, "hours": "6-8 17-23", "current": "DC"},
                        "fridge": {"name": "Refrigerator", "power": 120, "duty": 0.4, "surge": 4, "current": "DC"},
                        "pump": {"name": "Water pump", "power": 600, "surge": 3, "hours": "7-19", "hours_a_day": 1},
                        "radio": {"name": "Radio and computers", "number": 3, "power": 45, "hours": "7-22"},
                        "tanks": {"name": "Pumps of the tanks", "number": 2, "power": 60},
                        "kettle": {"name": "Kettle", "power": 1500, "hours": "7-9 12-13 18-19", "hours_a_day": 0.5},
                    },
                },
            }
        }
    },
    "storage": {
        "bank": {"model": "pellworth-10", "parallel": 2},
        "off_grid": {"inverter": "corvane-s3", "generator": {"power": 2, "quiet": "22-7"}},
    },
    # What a kWh costs that has to come by boat, and what each visit does.
    "money": {
        "energy_value": 0.9,
        "years": 20,
        "interest": 4,
        "costs": {
            "mounting": {"name": "Frames and anchors", "amount": 70, "per": "module"},
            "boat": {"name": "Boat and work", "amount": 2400},
        },
        "upkeep": {"visits": {"name": "Two visits a year", "amount": 300}},
    },
}
# What the generator saves: the same hut with twice the battery in its place.
SALTWICK_WITHOUT_GENERATOR = {
    "name": "Twice the battery, no generator",
    "storage": {"bank": {"parallel": 4}, "off_grid": {"generator": None}},
}
# A house with a car and a store of hot water, at a price by the hour of the day.
WEIR_MONEY = {
    "demand": {
        "sources": {
            "household": {
                "name": "Household",
                "monthly": {"energies": [318, 284, 276, 241, None, None, None, None, 232, 262, 294, 322], "shape": "household"},
            },
            "car": {
                "name": "Car",
                "vehicle": {"weekday_km": 34, "weekend_km": 20, "stays_on_weekends": True, "timing": "cheapest hours"},
            },
            "water": {"name": "Hot water", "hot_water": {"litres": 110, "timing": "by the sun"}},
        }
    },
    "money": {
        "tariff": tariff("cottage-two-rates"),
        "years": 25,
        "costs": {
            "work": {"name": "Scaffold and work", "amount": 2900},
            "mounting": {"name": "Hooks and rails", "amount": 55, "per": "module"},
        },
        "upkeep": {"insurance": {"name": "Insurance", "amount": 45}},
        "replacements": {"inverter": {"name": "Inverter", "amount": 900, "every": 14}},
    },
}
