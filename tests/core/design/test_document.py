import json

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from noontide.core.design import Design, merge_patch

values = st.recursive(
    st.none() | st.booleans() | st.integers() | st.text(max_size=3),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text("abc", max_size=2), inner, max_size=3),
)


@pytest.mark.parametrize(
    ("target", "patch", "result"),
    [  # Appendix A of RFC 7396
        ({"a": "b"}, {"a": "c"}, {"a": "c"}),
        ({"a": "b"}, {"b": "c"}, {"a": "b", "b": "c"}),
        ({"a": "b"}, {"a": None}, {}),
        ({"a": "b", "b": "c"}, {"a": None}, {"b": "c"}),
        ({"a": ["b"]}, {"a": "c"}, {"a": "c"}),
        ({"a": "c"}, {"a": ["b"]}, {"a": ["b"]}),
        ({"a": {"b": "c"}}, {"a": {"b": "d", "c": None}}, {"a": {"b": "d"}}),
        ({"a": [{"b": "c"}]}, {"a": [1]}, {"a": [1]}),
        (["a", "b"], ["c", "d"], ["c", "d"]),
        ({"a": "b"}, ["c"], ["c"]),
        ({"a": "foo"}, None, None),
        ({"a": "foo"}, "bar", "bar"),
        ({"e": None}, {"a": 1}, {"e": None, "a": 1}),
        ([1, 2], {"a": "b", "c": None}, {"a": "b"}),
        ({}, {"a": {"bb": {"ccc": None}}}, {"a": {"bb": {}}}),
    ],
)
def test_merge_patch_by_the_examples_of_the_standard(target, patch, result):
    before = json.dumps(target)
    assert merge_patch(target, patch) == result
    assert json.dumps(target) == before


@given(values, values)
def test_a_patch_applied_twice_is_applied_once(target, patch):
    once = merge_patch(target, patch)
    assert merge_patch(once, patch) == once


def test_only_what_was_set_is_kept(roof_document, roof):
    kept = roof.as_kept()
    assert kept == {"format": "noontide-design/5"} | roof_document
    assert roof.losses.soiling == 2.0
    assert "losses" not in kept


def test_every_value_with_a_default_says_why():
    schema = Design.model_json_schema()
    for name in ("Losses", "Models", "Surface", "Rows", "InverterSet"):
        for field, described in schema["$defs"][name]["properties"].items():
            if "default" in described and described["default"] is not None and "x-unit" in described:
                assert described.get("x-reason"), f"{name}.{field}"


@pytest.mark.parametrize(
    ("patch", "place"),
    [
        ({"surfaces": {"barn": {"tilt": 95}}}, ("surfaces", "barn", "tilt")),
        ({"surfaces": {"barn": {"tilt": "steep"}}}, ("surfaces", "barn", "tilt")),
        ({"surfaces": {"barn": {"slope": 5}}}, ("surfaces", "barn", "slope")),
        ({"site": {"latitude": float("nan")}}, ("site", "latitude")),
        ({"site": {"time_zone": "Moon/Sea of Clouds"}}, ("site", "time_zone")),
        ({"losses": {"soiling_by_month": [1, 2]}}, ("losses", "soiling_by_month")),
        ({"subarrays": {"south": {"surface": "shed"}}}, ()),
        ({"surfaces": {"barn": {"rows": {"pitch": 1}}}}, ("surfaces", "barn")),
    ],
)
def test_a_wrong_value_is_refused_at_its_place(roof_document, patch, place):
    with pytest.raises(ValidationError) as caught:
        Design.read(merge_patch(roof_document, patch))
    assert caught.value.errors()[0]["loc"] == place


def test_snow_lifts_the_albedo_by_its_share_of_the_days():
    site = Design.read({"site": {"latitude": 60, "longitude": 11, "albedo": 0.2, "snow_by_month": [100, 50, *[0] * 10]}}).site
    assert site.albedo_before(None)[:3] == pytest.approx((0.6, 0.4, 0.2))
    assert site.albedo_before(0.1)[:3] == pytest.approx((0.6, 0.35, 0.1))
