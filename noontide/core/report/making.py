"""Making a report: pages in their order, set on sheets, with headers, page numbers and bookmarks."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from noontide.core.drawing import Bookmark, Sheet, as_pdf
from noontide.core.electrical.datasheets import KINDS
from noontide.core.report.editions import EDITIONS
from noontide.core.report.pages import PAGES, About, Other, Record, Subject
from noontide.core.report.setting import MARGIN, PAPERS, Flow
from noontide.core.report.trial_page import TrialsShown
from noontide.core.report.wording import Wording, names_in, wording
from noontide.core.simulation.cache import StageCache
from noontide.core.simulation.results import Results


class UnknownPage(ValueError):
    """A page, an edition or a paper that there is not."""


@dataclass(frozen=True)
class Report:
    """A report that is set."""

    title: str
    subject: str
    sheets: tuple[Sheet, ...]
    outline: tuple[Bookmark, ...]
    pages: tuple[str, ...]  # by sheet the key of its page
    left_out: tuple[tuple[str, str], ...]  # pages that were asked for, and why there is nothing to show
    language: str = "en"
    untranslated: tuple[str, ...] = ()  # texts that the language's catalogue does not have, which stand in English

    def as_pdf(self) -> bytes:
        return as_pdf(self.sheets, self.title, self.outline, self.subject)


def pages_of(edition: str) -> tuple[str, ...]:
    """The pages of an edition.

    Raises
    ------
    UnknownPage
        If there is no such edition.
    """
    if edition not in EDITIONS:
        raise UnknownPage(f"There is no edition {edition[:40]!r}. Choose {', '.join(EDITIONS)}.")
    return EDITIONS[edition].pages


def report_of(
    r: Results,
    about: About,
    pages: Sequence[str],
    paper: str = "a4",
    stages: StageCache | None = None,
    others: Sequence[Other] = (),
    told: Callable[[int, int, str], None] | None = None,
    words: Wording | None = None,
    record: Record | None = None,
    trials: Sequence[TrialsShown] = (),
) -> Report:
    """A report of a simulated design; the same design and the same words about it make the same report.

    `told` hears which page is set: its number from 0, of how many, and its title.

    Raises
    ------
    UnknownPage
        If a page or the paper is not known, or none is asked for.
    """
    if unknown := [key for key in pages if key not in PAGES]:
        raise UnknownPage(f"There is no page {unknown[0][:40]!r}. Choose from {', '.join(PAGES)}.")
    if paper not in PAPERS:
        raise UnknownPage(f"There is no paper {paper[:20]!r}. Choose {' or '.join(PAPERS)}.")
    if not pages:
        raise UnknownPage("A report needs one page or more.")
    words = words if words is not None else wording()
    words.names |= _names(r, about, others) | {one.title for one in trials if one.title}
    subject = Subject(r, about, stages if stages is not None else StageCache(), tuple(others), record, tuple(trials))
    flow = Flow(paper, wording=words, accent=about.accent)
    left_out = []
    chosen = list(dict.fromkeys(pages))
    for number, key in enumerate(chosen):
        page = PAGES[key]
        if told is not None:
            told(number, len(chosen), page.title)
        if page.is_there(subject):
            page.fill(flow, subject)
        else:
            left_out.append((key, page.without))
    if not flow.sheets:
        raise UnknownPage("None of these pages has anything to show: " + " ".join(dict.fromkeys(why for _, why in left_out)))
    for number, sheet in enumerate(flow.sheets, start=1):
        sheet.title = words.say(f"{about.project or 'Report'}, page {number}")
        if number - 1 not in flow.framed:
            _foot(sheet, about, number, len(flow.sheets), words)
    title = " – ".join(part for part in (about.project, about.scheme) if part) or "Report"
    return Report(
        title,
        about.footnote,
        tuple(flow.sheets),
        tuple(flow.outline),
        tuple(flow.pages),
        tuple(left_out),
        words.language.key,
        tuple(sorted(words.missing)),
    )


def _foot(sheet: Sheet, about: About, number: int, of: int, words: Wording) -> None:
    """What stands at the foot of a sheet: of what it is, and its number."""
    foot = sheet.height - 9
    wide = sheet.width - 2 * MARGIN
    sheet.line((MARGIN, foot - 4), (MARGIN + wide, foot - 4), weight=0.15, tone="soft")
    whose = ", ".join(p for p in (about.sender, about.project, words.say(about.footnote)) if p)
    sheet.text(MARGIN, foot, whose, 2.3, tone="soft", most=wide - 30)
    sheet.text(MARGIN + wide, foot, words.say(f"{number} of {of}"), 2.3, "end", tone="soft")
    below = [words.say(f"Design {about.digest[:24]}") if about.digest else "", about.address]
    sheet.text(MARGIN, foot + 3.2, "   ".join(part for part in below if part), 1.9, tone="soft", most=wide)


def _names(r: Results, about: About, others: Sequence[Other]) -> frozenset[str]:
    """What the design, its parts and whoever sends the report have named."""
    found = names_in(r.design.as_kept()) | {r.weather.title, r.weather.source, r.design.money.currency}
    found |= {about.project, about.customer, about.scheme, about.sender, about.contact, about.closing, about.address}
    found |= {name for other in others for name in (other.title, other.title.partition(",")[0])} | {
        about.scheme.partition(",")[0]
    }
    for kind in KINDS:
        for key, part in {**r.library.of(kind), **r.design.parts.of(kind)}.items():
            found |= {key, part.maker, part.name, f"{part.maker} {part.name}", part.source, str(part.date)}
    return frozenset(name.strip() for name in found if name and name.strip())
