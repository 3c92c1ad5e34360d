"""Work for processes of their own that goes wrong in every way; a module of its own, so that they find it."""

import os
import signal
import time
from pathlib import Path

import numpy as np

from noontide.core.weather import WeatherFileError
from noontide.server.problems import Problem


def double(given: dict, report=None) -> dict:
    if report is not None:
        report(0.5, "half")
    return {"twice": 2 * given["number"]}


def be_killed(given: dict, report=None) -> dict:
    os.kill(os.getpid(), signal.SIGKILL)
    return {}


def freeze(given: dict, report=None) -> dict:
    os.kill(os.getpid(), signal.SIGSTOP)
    return {}


def take_memory(given: dict, report=None) -> dict:
    return {"sum": float(np.ones(given["doubles"]).sum())}


def take_time(given: dict, report=None) -> dict:
    Path(given["pid"]).write_text(str(os.getpid()))
    time.sleep(60)
    return {}


def refuse(given: dict, report=None) -> dict:
    raise Problem(409, "busy", "Busy", "In words.", "/a") if given.get("problem") else WeatherFileError("wrong", row=3, value="x")
