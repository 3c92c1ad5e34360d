"""The compiled kernels made ready ahead, so that nobody waits for the first one."""

import numpy as np

from noontide.core.demand.deferrable import Deferrable
from noontide.core.demand.pumping import DirectPump
from noontide.core.electrical.datasheets import Catalogue
from noontide.core.electrical.fitting import fit_module
from noontide.core.electrical.inverter import convert, fit_inverter
from noontide.core.electrical.optimisers import optimise
from noontide.core.electrical.string_curves import StringKinds
from noontide.core.electrical.strings import SceneShade, Strings, TrackerLimits, find_operating_points
from noontide.core.layout import fill
from noontide.core.scene.bodies import prism
from noontide.core.scene.frame import Frame
from noontide.core.scene.placing import rectangle
from noontide.core.shading.near import Targets, beam_light, beam_light_again, casters_of
from noontide.core.simulation.near_shade import sort_groups
from noontide.core.storage import Battery, dispatch, least_peak, time_of_use
from noontide.core.storage.ageing import rainflow
from noontide.core.storage.dispatch import read_only
from noontide.core.storage.loops import balance_years


def compile_kernels(parts: Catalogue) -> None:
    """Call every compiled loop once on almost nothing; from the second start on they come from the disk."""
    frame = Frame(np.zeros(3), np.array([0.0, 0.0, 1.0]))
    targets = Targets(frame, np.array([[[0.0, 0.0], [1.0, 0.0], [1.0, 1.0], [0.0, 1.0]]]))
    bodies = [prism(f"b{k}", "boxes", "", rectangle(1, 1) + [k, -1], 0, 2) for k in range(2)]
    suns, months = np.array([[0.0, -0.6, 0.8]]), np.zeros(1, np.int64)
    before = beam_light(targets, casters_of(bodies[:1], frame), suns, months)
    beam_light_again(targets, bodies, suns, months, before, bodies[1:])
    fill([[0, 0], [3, 0], [3, 3], [0, 3]], [], 1, 1)
    day = np.ones(24)
    for strategy in (time_of_use(day), least_peak(own_use=True), least_peak(own_use=True, yesterday=True)):
        dispatch(day, day, Battery([1.0, 2.0]), strategy)
    year = read_only(np.ones((1, 24)))
    balance_years(year, year, year, year, year, year, year, 1.0, np.empty((9, 1, 24)))
    rainflow([0.0, 1.0, 0.5, 1.0])
    Deferrable("by the sun", np.zeros(1, np.int64), np.ones(1), np.ones(4)).place(np.ones(4), np.ones(4))
    DirectPump(1.0, day, day, day, 10.0, 0.0, 0.5, 1.0, 1.0, np.zeros(24, np.int64)).place(day)
    module, unit = next(iter(parts.modules.values())), next(iter(parts.inverters.values()))
    one = np.ones(1)
    convert(one, one, fit_inverter(unit), 1.0, 1.0, 1.0)
    none, counts = np.zeros((1, 1), np.int64), np.zeros((1, 1), np.int64)
    kinds = StringKinds(none, none + 1, one, np.array([0, 2]), np.array([1.0, 0.0]), np.array([0.5, 0.5]))
    shade = SceneShade(600 * one, 100 * one, np.zeros(1, np.int64), kinds)
    strings = Strings(fit_module(module).parameters, 600 * one, 25 * one, one, one, 1.0, 1, 1, shade, 1.5)
    find_operating_points([strings], TrackerLimits(0.0, 900.0, 0.0, 20.0))
    if parts.optimisers:
        optimise(strings, next(iter(parts.optimisers.values())), 400.0, 1)
    light, nothing, ends = np.ones((1, 1), dtype=np.float32), np.zeros(1, np.int64), np.array([0, 1])
    light.flags.writeable = False  # as the beams that are remembered
    for is_filling in (False, True):
        sort_groups(
            light,
            light,
            nothing,
            none,
            ends,
            ends,
            np.ones(1),
            1,
            20.0,
            is_filling,
            counts,
            counts.copy(),
            none,
            none,
            one,
            nothing,
            one,
            one,
            0,
            1,
        )
