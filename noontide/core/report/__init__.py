"""Reports: the design set on paper, of one stated revision."""

from noontide.core.report.editions import EDITIONS, Edition
from noontide.core.report.html import MEDIA, as_file, as_html
from noontide.core.report.making import Report, UnknownPage, pages_of, report_of
from noontide.core.report.pages import PAGES, About, Other, Page, Record
from noontide.core.report.trial_page import TrialsShown

__all__ = [
    "EDITIONS",
    "MEDIA",
    "PAGES",
    "About",
    "Edition",
    "Other",
    "Page",
    "Record",
    "Report",
    "TrialsShown",
    "UnknownPage",
    "as_file",
    "as_html",
    "pages_of",
    "report_of",
]
