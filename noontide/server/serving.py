"""Starting the application: database brought up to date, demo loaded if asked for, then the server."""

import os
import sys
import warnings


def serve(host: str, port: int, data: str | None, with_demo: bool, load_only: bool) -> int:
    """Run until it is interrupted; the exit code."""
    if data:
        os.environ["NOONTIDE_DATA"] = data
    if host not in ("127.0.0.1", "localhost", "::1"):
        os.environ.setdefault("NOONTIDE_HOSTS", f"localhost,127.0.0.1,[::1],{host}")
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "noontide.server.settings")
    import django

    django.setup()
    from django.core.management import call_command

    call_command("migrate", verbosity=0, interactive=False)
    from noontide.server.jobs.running import mark_interrupted

    mark_interrupted()
    if with_demo:
        from noontide.server.demo import load_demo

        for line in load_demo():
            print(line, flush=True)
        if load_only:
            return 0
    from threading import Thread

    import uvicorn

    from noontide.server.places.finding import find

    # The first search reads all towns; nobody should wait for that.
    Thread(target=find, args=("warm up",), daemon=True).start()

    # Static files are small and local; that they are read in one go is no news to the person at the console.
    warnings.filterwarnings("ignore", message="StreamingHttpResponse must consume synchronous iterators")
    shown = "localhost" if host == "127.0.0.1" else host
    print(f"Noontide is at http://{shown}:{port}/  (stop with Ctrl+C)", flush=True)
    try:
        uvicorn.run("noontide.server.asgi:application", host=host, port=port, log_level="warning", lifespan="off")
    except OSError as error:
        print(f"noontide: the server cannot start: {error}. Choose another port with --port.", file=sys.stderr)
        return 1
    return 0
