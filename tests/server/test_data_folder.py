"""The data folder: what is wrong with it is said before anything is done, and one server alone has it."""

import os
import sqlite3
import stat
import subprocess
import sys

import pytest

from noontide.server.data_folder import UnusableFolder, check_database, claim


def test_a_folder_is_made_for_its_owner_alone(tmp_path):
    lock = claim(tmp_path / "new")
    assert stat.S_IMODE((tmp_path / "new").stat().st_mode) == 0o700
    lock.close()


def test_a_second_server_is_refused_and_named_the_first(tmp_path):
    lock = claim(tmp_path)
    with pytest.raises(UnusableFolder, match=f"in use by process {os.getpid()}"):
        claim(tmp_path)
    lock.close()
    claim(tmp_path).close()


def test_a_file_is_no_folder(tmp_path):
    (tmp_path / "file").write_text("x")
    with pytest.raises(UnusableFolder, match="is a file"):
        claim(tmp_path / "file")


def test_a_damaged_database_is_told(tmp_path):
    path = tmp_path / "noontide.sqlite3"
    path.write_bytes(b"SQLite format 3\x00" + os.urandom(4096))
    with pytest.raises(UnusableFolder, match="Put back a copy"):
        check_database(path, set())


def test_a_database_of_a_later_version_is_refused(tmp_path):
    path = tmp_path / "noontide.sqlite3"
    connection = sqlite3.connect(path)
    connection.execute("CREATE TABLE django_migrations (app TEXT, name TEXT)")
    connection.execute("INSERT INTO django_migrations VALUES ('projects', '0042_from_the_future')")
    connection.commit()
    connection.close()
    with pytest.raises(UnusableFolder, match="later version"):
        check_database(path, {("projects", "0001_initial")})
    check_database(path, {("projects", "0042_from_the_future")})


@pytest.mark.slow
def test_a_taken_port_is_told_with_what_to_do(tmp_path):
    import socket

    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        command = [sys.executable, "-m", "noontide.cli", "serve", "--port", str(taken.getsockname()[1]), "--data", str(tmp_path)]
        ended = subprocess.run(command, capture_output=True, text=True, timeout=60)
    assert ended.returncode == 1
    assert "Choose another with --port" in ended.stderr
    assert "Traceback" not in ended.stderr
