"""Pages that stay open cost the server a socket each: no thread, no connection to the database."""

import contextlib
import os
import socket
import subprocess
import sys
import time
from pathlib import Path

import pytest

PAGES = 120


@pytest.mark.skipif(not Path("/proc/self/fd").exists(), reason="counts what Linux shows of a process")
def test_a_hundred_open_pages_hold_neither_threads_nor_connections(tmp_path):
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    command = [sys.executable, "-m", "noontide.cli", "demo", "--port", str(port), "--data", str(tmp_path)]
    with (
        subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True) as server,
        contextlib.ExitStack() as open_pages,
    ):
        try:
            assert any("Noontide is at" in line for line in server.stdout)
            of_process = Path(f"/proc/{server.pid}")
            time.sleep(2)
            threads, files = len(os.listdir(of_process / "task")), len(os.listdir(of_process / "fd"))
            request = f"GET /api/schemes/1/events HTTP/1.1\r\nHost: localhost:{port}\r\n\r\n".encode()
            pages = [open_pages.enter_context(socket.create_connection(("127.0.0.1", port))) for _ in range(PAGES)]
            for page in pages:
                page.sendall(request)
            for page in pages:
                page.settimeout(10)
                answer = b""
                # Where the scheme stands is told first: what happened before the stream was open is not missed.
                while b'event: revised\ndata: {"revision": 1}' not in answer:
                    answer += page.recv(4096) or pytest.fail(f"the stream ended with {answer!r}")
                assert b"200 OK" in answer
            time.sleep(1)
            assert len(os.listdir(of_process / "task")) < threads + 20
            assert len(os.listdir(of_process / "fd")) < files + PAGES + 40
        finally:
            server.terminate()
