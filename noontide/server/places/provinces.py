"""Names of states and provinces by the codes of the gazetteer, for countries whose towns are told apart by them."""

PROVINCES: dict[str, dict[str, str]] = {
    "AT": {
        "01": "Burgenland", "02": "Carinthia", "03": "Lower Austria", "04": "Upper Austria", "05": "Salzburg", "06": "Styria", "07": "Tyrol", "08": "Vorarlberg", "09": "Vienna",
    },
    "AU": {
        "01": "Australian Capital Territory", "02": "New South Wales", "03": "Northern Territory", "04": "Queensland", "05": "South Australia", "06": "Tasmania", "07": "Victoria", "08": "Western Australia",
    },
    "CA": {
        "01": "Alberta", "02": "British Columbia", "03": "Manitoba", "04": "New Brunswick", "05": "Newfoundland and Labrador", "07": "Nova Scotia", "08": "Ontario", "09": "Prince Edward Island",
        "10": "Quebec", "11": "Saskatchewan", "12": "Yukon", "13": "Northwest Territories", "14": "Nunavut",
    },
    "DE": {
        "01": "Baden-Württemberg", "02": "Bavaria", "03": "Bremen", "04": "Hamburg", "05": "Hesse", "06": "Lower Saxony", "07": "North Rhine-Westphalia", "08": "Rhineland-Palatinate",
        "09": "Saarland", "10": "Schleswig-Holstein", "11": "Brandenburg", "12": "Mecklenburg-Vorpommern", "13": "Saxony", "14": "Saxony-Anhalt", "15": "Thuringia", "16": "Berlin",
    },
    "GB": {"ENG": "England", "NIR": "Northern Ireland", "SCT": "Scotland", "WLS": "Wales"},
}  # fmt: skip
SHORT: dict[str, dict[str, str]] = {
    "AU": {"01": "ACT", "02": "NSW", "03": "NT", "04": "QLD", "05": "SA", "06": "TAS", "07": "VIC", "08": "WA"},
    "CA": {
        "01": "AB", "02": "BC", "03": "MB", "04": "NB", "05": "NL", "07": "NS", "08": "ON", "09": "PE", "10": "QC", "11": "SK", "12": "YT", "13": "NT", "14": "NU",
    },
}  # fmt: skip
ALSO_CALLED = {
    "GB": ("uk", "great britain"),
    "US": ("usa", "america"),
    "NL": ("holland",),
    "AE": ("uae",),
    "CZ": ("czech republic",),
}
