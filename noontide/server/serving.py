"""Starting the application: the data folder claimed, the database brought up to date, demo loaded if asked for, then the server."""

import contextlib
import os
import socket
import sys
import threading
import time
import urllib.error
import urllib.request
import warnings
from pathlib import Path

LOCAL = ("localhost", "127.0.0.1", "::1")


def serve(host: str, port: int, data: str | None, with_demo: bool, load_only: bool) -> int:
    """Run until it is interrupted; the exit code."""
    os.umask(0o077)
    if data:
        os.environ["NOONTIDE_DATA"] = data
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "noontide.server.settings")
    listening = None
    if not load_only:
        try:
            listening = _listen(host, port)
        except OSError as error:
            print(
                f"noontide: port {port} on {host} cannot be used: {error.strerror or error}. Choose another with --port.",
                file=sys.stderr,
            )
            return 1
        os.environ.setdefault("NOONTIDE_HOSTS", ",".join(_names(host)))
    from noontide.server.data_folder import UnusableFolder

    try:
        lock = _prepare()
    except UnusableFolder as error:
        print(f"noontide: {error}", file=sys.stderr)
        return 1
    try:
        if with_demo:
            from noontide.server.demo import load_demo

            for line in load_demo():
                print(line, flush=True)
        if listening is None:
            return 0
        return _run(listening, "localhost" if host == "127.0.0.1" else host, port)
    finally:
        lock.close()


def _listen(host: str, port: int) -> socket.socket:
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    listening = socket.socket(family, socket.SOCK_STREAM)
    listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    listening.bind((host, port))
    return listening


def _names(host: str) -> list[str]:
    """Names under which the server may be asked."""
    names = ["localhost", "127.0.0.1", "[::1]"]
    if host in LOCAL:
        return names
    if host not in ("0.0.0.0", "::"):
        return [*names, host]
    own = {socket.gethostname(), socket.getfqdn()}
    with contextlib.suppress(OSError):
        own |= {str(info[4][0]) for info in socket.getaddrinfo(socket.gethostname(), None)}
    # The address that a route to the outside would use; nothing is sent.
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(("192.0.2.1", 9))
            own.add(probe.getsockname()[0])
        except OSError:
            pass
    return [*names, *sorted(f"[{name}]" if ":" in name else name for name in own if name)]


def _prepare():
    """Claim the data folder and bring its database up to date."""
    from noontide.server.data_folder import UnusableFolder, check_database, claim

    named = os.environ.get("NOONTIDE_DATA")
    home = Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share") / "noontide"
    folder = Path(named).expanduser().resolve() if named else home
    lock = claim(folder)
    try:
        import django

        django.setup()
        from django.core.management import call_command
        from django.db import DatabaseError, connection
        from django.db.migrations.loader import MigrationLoader

        known = set(MigrationLoader(None, ignore_no_migrations=True).disk_migrations or {})
        check_database(folder / "noontide.sqlite3", known)
        try:
            call_command("migrate", verbosity=0, interactive=False)
            from noontide.server.jobs.running import mark_interrupted

            mark_interrupted()
        except DatabaseError as error:
            raise UnusableFolder(
                f"{folder} cannot be written: {error}. Check the free space and the rights of the folder."
            ) from error
        finally:
            connection.close()
        for path in folder.glob("noontide.sqlite3*"):
            path.chmod(0o600)
    except BaseException:
        lock.close()
        raise
    return lock


def _run(listening: socket.socket, shown: str, port: int) -> int:
    import uvicorn

    from noontide.server.memory import share_arenas

    share_arenas()
    threading.Thread(target=_begin, args=(shown, port), name="begin", daemon=True).start()
    # Static files are small and local; that they are read in one go is no news to the person at the console.
    warnings.filterwarnings("ignore", message="StreamingHttpResponse must consume synchronous iterators")
    config = uvicorn.Config("noontide.server.asgi:application", log_level="warning", lifespan="off", timeout_graceful_shutdown=3)
    uvicorn.Server(config).run(sockets=[listening])
    return 0


def _begin(shown: str, port: int) -> None:
    """Say the address once the first answer is there; then make ready what the first edit, search and file would wait for."""
    from noontide.core.design import Design
    from noontide.core.warm import compile_kernels
    from noontide.parts import built_in_parts
    from noontide.server.apart import NotFinished, run_apart
    from noontide.server.constant import make_ready
    from noontide.server.memory import leave_alone
    from noontide.server.places.finding import find
    from noontide.server.places.gazetteer import packed_towns, take_ready

    _wait_for_answer(shown, port)
    leave_alone()  # what was loaded to begin with is most of it; later the look takes a tenth of the time
    _say_address(shown, port)
    make_ready(Design.model_json_schema)
    compile_kernels(built_in_parts())
    # The first work apart loads its libraries too, so that the first file need not wait for them.
    with contextlib.suppress(NotFinished):
        take_ready(run_apart(packed_towns, seconds=120, megabytes=1024))
    find("warm up")
    leave_alone()


def _wait_for_answer(shown: str, port: int) -> None:
    """Return once the server gives its first answer."""
    probe = (
        f"http://127.0.0.1:{port}/api/quantities"
        if shown in ("localhost", "0.0.0.0")
        else f"http://{shown}:{port}/api/quantities"
    )
    for _ in range(600):
        try:
            urllib.request.urlopen(probe, timeout=10).read()
            return
        except urllib.error.HTTPError:
            return
        except OSError:
            time.sleep(0.1)


def _say_address(shown: str, port: int) -> None:
    """Print the address."""
    print(f"Noontide is at http://{shown}:{port}/  (stop with Ctrl+C)", flush=True)
    if shown not in LOCAL:
        print(
            "There is no login: everybody who reaches this address can read and change every project. Use it in a network that you trust.",
            flush=True,
        )
