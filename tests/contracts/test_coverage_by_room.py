"""The table of coverage counts every file in one room, and the least covered room comes first."""

import json

from bench.coverage_by_room import by_room, main

FILES = {
    "noontide/core/scene/build.py": {"summary": {"num_statements": 80, "covered_lines": 60}},
    "noontide/core/scene/importers/points.py": {"summary": {"num_statements": 20, "covered_lines": 20}},
    "noontide/core/calendar.py": {"summary": {"num_statements": 10, "covered_lines": 10}},
    "noontide/cli.py": {"summary": {"num_statements": 50, "covered_lines": 10}},
    "noontide/core/empty/__init__.py": {"summary": {"num_statements": 0, "covered_lines": 0}},
}


def test_files_count_in_the_room_that_holds_them():
    assert by_room(FILES) == [("noontide", 50, 10), ("noontide/core/scene", 100, 80), ("noontide/core", 10, 10)]


def test_the_table_ends_with_all(tmp_path, capsys):
    report = tmp_path / "coverage.json"
    report.write_text(json.dumps({"files": FILES}))
    main(str(report))
    last = capsys.readouterr().out.splitlines()[-1].split()
    assert last == ["all", "160", "100", "62.5%"]
