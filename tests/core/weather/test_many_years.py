from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from noontide.core.behind_meter.off_grid import proof
from noontide.core.behind_meter.over_years import simulate_years
from noontide.core.calendar import Calendar
from noontide.core.design import Design, merge_patch
from noontide.core.simulation import simulate
from noontide.core.weather import fill_missing_columns
from noontide.core.weather.many_years import exceedance, many_years, sensor_drift, variation
from noontide.parts import built_in_parts
from tests.conftest import simulated_weather


def record(factors, first=2001):
    """The same year again and again, a little brighter or darker each time, with leap days."""
    base = simulated_weather(43.62, 11.31, 412, 1)
    years = []
    for i, factor in enumerate(factors):
        calendar = Calendar(first + i, 60, 1)
        columns = {
            name: np.concatenate([getattr(base, name), getattr(base, name)[:24]])[: calendar.intervals]
            for name in ("temperature", "wind")
        }
        ghi = np.concatenate([base.ghi, base.ghi[:24]])[: calendar.intervals] * factor
        columns["temperature"] = columns["temperature"] + i
        years.append(fill_missing_columns(calendar, base.place, columns | {"ghi": ghi}, title=str(first + i), is_typical=False))
    return years


def test_the_figures_of_a_record():
    factors = [0.9, 1.0, 1.05, 0.95, 1.1]
    found = many_years(record(factors))
    assert found.years == (2001, 2002, 2003, 2004, 2005)
    assert found.mean == pytest.approx(np.mean(found.annual_ghi))
    assert found.spread == pytest.approx(np.std(factors, ddof=1), rel=0.01)
    assert found.exceeded(0.5) == pytest.approx(found.mean)
    assert found.exceeded(0.9) == pytest.approx(found.mean * (1 - 1.2816 * found.spread), rel=1e-4)
    assert found.closest(0.5) == 2002
    assert found.worst_month == 11
    t = found.temperature
    assert t.record_high - t.record_low == pytest.approx(t.mean_high - t.mean_low + 4, abs=0.2)
    assert t.record_low < t.mean_low < t.low_2_percent < t.high_2_percent < t.mean_high < t.record_high


@given(st.lists(st.floats(1, 1e6), min_size=2, max_size=30), st.floats(0.01, 0.49))
def test_exceedance_falls_with_the_probability_and_is_symmetric(values, p):
    assert exceedance(values, p) >= exceedance(values, 0.5) >= exceedance(values, 1 - p)
    assert exceedance(values, p) + exceedance(values, 1 - p) == pytest.approx(2 * np.mean(values), rel=1e-9, abs=1e-6)


def test_one_year_has_no_spread_and_nonsense_is_refused():
    assert exceedance([5.0], 0.9) == 5
    assert variation([5.0]) == 0
    for wrong in (0.0, 1.0, 2.0):
        with pytest.raises(ValueError, match="between 0 and 1"):
            exceedance([1, 2], wrong)
    for make in (lambda: many_years([]), lambda: exceedance([], 0.5), lambda: simulate_years(None, [], None)):
        with pytest.raises(ValueError, match="one"):
            make()


def test_a_sensor_that_loses_one_per_cent_a_year_is_found_and_a_steady_one_is_not():
    drifting = sensor_drift(record([1 - 0.01 * i for i in range(8)]))
    assert drifting.is_found
    assert drifting.per_year == pytest.approx(-0.01, abs=0.002)
    assert not sensor_drift(record([1.0, 1.001, 0.999, 1.0, 1.001, 0.999])).is_found
    assert many_years(record([1, 1])).drift is None


def test_a_design_over_a_record_is_each_year_alone_and_tells_how_far_it_is(roof):
    years = record([0.9, 1.1])
    told = []
    found = simulate_years(roof, years, built_in_parts(), lambda done, of: told.append((done, of)))
    assert told == [(0, 2), (1, 2), (2, 2)]
    assert [run.year for run in found.runs] == [2001, 2002]
    assert found.runs[0].energy < found.runs[1].energy
    assert found.exceeded(0.9) < found.mean == pytest.approx(np.mean([run.energy for run in found.runs]))

    def stop(done, of):
        if done:
            raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        simulate_years(roof, years, built_in_parts(), stop)


def test_a_place_without_a_grid_tells_how_dark_each_year_is(roof):
    place = {
        "demand": {"sources": {"hut": {"name": "Hut", "yearly": {"energy": 9000}}}},
        "storage": {"bank": {"energy": 20, "power": 5}, "off_grid": {}},
    }
    hut = Design.read(merge_patch(roof.as_kept(), place))
    found = simulate_years(hut, record([1.1, 0.7]), built_in_parts())
    bright, dull = found.runs
    assert 0 < bright.dark_hours < dull.dark_hours and found.darkest is dull
    assert f"{dull.dark_hours:,.0f} in the worst, 2002" in found.dark_words()
    alone = proof(simulate(hut, record([1.1, 0.7])[1], built_in_parts()))
    assert (dull.dark_hours, dull.loss_of_load) == (alone.dark_hours, alone.loss_of_load)
    assert simulate_years(roof, record([1.0]), built_in_parts()).dark_words() == ""
    large = Design.read(merge_patch(hut.as_kept(), {"storage": {"bank": {"energy": 5000, "power": 50}}}))
    assert simulate_years(large, record([1.0, 1.1]), built_in_parts()).dark_words() == "No hour of the 2 years stays dark."


def test_flags_of_a_record_do_not_disturb_its_sums():
    year = record([1.0])[0]
    marked = replace(year, flags=np.ones(year.calendar.intervals, dtype=np.uint8))
    assert many_years([marked]).mean == many_years([year]).mean


def test_a_typical_year_is_no_year_of_a_record_and_is_left_out_in_words(hill_weather, tmp_path, capsys):
    from noontide.cli import main
    from noontide.core.weather import typical_year
    from noontide.core.weather.epw import write_epw

    typical = replace(hill_weather, is_typical=True, title="Hill, typical")
    for refuse in (many_years, lambda years: typical_year([*years, *years, *years])):
        with pytest.raises(ValueError, match="Hill, typical is a typical year"):
            refuse([typical])
    for name, year in (("typical", typical), ("measured", replace(hill_weather, is_typical=False))):
        (tmp_path / f"{name}.epw").write_text(write_epw(year))
    assert main(["weather", "years", str(tmp_path / "typical.epw"), str(tmp_path / "measured.epw")]) == 0
    shown = capsys.readouterr()
    assert "is left out" in shown.err and len([line for line in shown.out.splitlines() if line.strip()[:4].isdigit()]) == 1
    with pytest.raises(SystemExit):
        main(["weather", "years", str(tmp_path / "typical.epw")])
    assert "no year of a record is left" in capsys.readouterr().err
