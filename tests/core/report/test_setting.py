"""Setting: nothing is lost between the words and the paper, and nothing stands off it."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from noontide.core.drawing import Text
from noontide.core.drawing.typeface import width_of
from noontide.core.report.setting import FOOT, MARGIN, PAPERS, TOP, Column, Flow

WORDS = st.lists(st.tuples(st.text("abcdeÄ€ .,()°\n", max_size=40), st.booleans()), max_size=12)


def begun(paper="a4") -> Flow:
    flow = Flow(paper)
    flow.begin("page", "A page")
    return flow


def texts(flow):
    return [mark for sheet in flow.sheets for mark in sheet.marks if isinstance(mark, Text)]


def assert_on_paper(flow):
    for sheet in flow.sheets:
        for mark in sheet.marks:
            if isinstance(mark, Text):
                wide = width_of(mark.text.rstrip(), mark.size, mark.is_bold)
                left = mark.x - {"start": 0, "middle": wide / 2, "end": wide}[mark.anchor]
                assert left >= MARGIN - 0.1 and left + wide <= sheet.width - MARGIN + 0.5
                assert TOP - 1 <= mark.y <= sheet.height - FOOT + 1


@given(WORDS)
def test_prose_keeps_every_letter_in_order_and_stays_between_the_margins(words):
    flow = begun()
    flow.prose(words)
    written = "".join(mark.text for mark in texts(flow)[1:])
    assert "".join(written.split()) == "".join("".join(text for text, _ in words).split())
    assert_on_paper(flow)


@given(WORDS)
def test_blanks_of_prose_stand_where_they_stood_and_nowhere_else(words):
    flow = begun()
    flow.prose(words)
    lines: dict[tuple[int, float], str] = {}
    for k, sheet in enumerate(flow.sheets):
        for mark in [m for m in sheet.marks if isinstance(m, Text)][1 if k == 0 else 0 :]:
            lines[k, mark.y] = lines.get((k, mark.y), "") + mark.text
    assert " ".join(line.strip() for line in lines.values()).split() == "".join(text for text, _ in words).split()


def test_what_stands_out_is_bold_and_begins_where_the_words_before_it_end():
    flow = begun()
    flow.prose([("Tilt ", False), ("35°", True), (", facing south.", False)])
    first, second, third = texts(flow)[1:]
    assert (first.text, second.text, third.text) == ("Tilt ", "35°", ", facing south.")
    assert (first.is_bold, second.is_bold, third.is_bold) == (False, True, False)
    assert second.x == pytest.approx(first.x + width_of("Tilt ", first.size))


def test_a_word_wider_than_the_page_is_broken_and_kept_whole():
    flow = begun()
    flow.prose([("see ", False), ("x" * 400, True), (" end", False)])
    assert "".join("".join(m.text for m in texts(flow)[1:]).split()) == "see" + "x" * 400 + "end"
    assert_on_paper(flow)


@pytest.mark.parametrize("paper", list(PAPERS))
def test_a_table_of_five_hundred_rows_has_each_once_under_a_heading_on_every_sheet(paper):
    flow = begun(paper)
    columns = [Column("Number", 0.3, "start"), Column("Square", 0.7)]
    flow.table(columns, [[f"row {k}", f"{k * k:,}"] for k in range(500)])
    assert len(flow.sheets) > 5
    written = [mark.text for mark in texts(flow)]
    assert [t for t in written if t.startswith("row ")] == [f"row {k}" for k in range(500)]
    for sheet in flow.sheets:
        assert sum(isinstance(m, Text) and m.text == "Number" for m in sheet.marks) == 1
    assert_on_paper(flow)


def test_a_heading_never_stands_alone_at_the_foot():
    flow = begun()
    flow.y = PAPERS["a4"][1] - FOOT - 15
    flow.heading("Cables")
    flow.prose("They carry the current.")
    heading, prose = texts(flow)[1:]
    assert len(flow.sheets) == 2 and prose.y > heading.y
    assert [(mark.title, mark.sheet) for mark in flow.outline] == [("A page", 0), ("Cables", 1)]


def test_long_cells_take_more_lines_and_push_the_next_row_down():
    flow = begun()
    flow.table([Column("A", 0.2, "start"), Column("B", 0.8, "start")], [["many words " * 8, "short"], ["next", "row"]])
    mine = texts(flow)[1:]
    following = next(m for m in mine if m.text == "next")
    assert following.y > max(m.y for m in mine if m.text.startswith("many")) + following.size
    assert_on_paper(flow)
