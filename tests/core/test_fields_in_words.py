"""Faults of documents read as sentences that say how to put them right, whoever shows them."""

import pytest
from pydantic import ValidationError

from noontide.core.design import Design
from noontide.core.fields import first_fault
from noontide.core.trials import Study

PLACE = {"site": {"latitude": 50, "longitude": 10}}


@pytest.mark.parametrize(
    ("read", "document", "said"),
    [
        (Design, {"site": {"latitude": 91}}, "/site/latitude: Enter 90 or less."),
        (Design, {"site": {"latitude": "north"}}, "/site/latitude: Enter a number."),
        (Design, {"site": {"latitude": float("nan")}}, "/site/latitude: Enter a finite number."),
        (Design, PLACE | {"sight": {}}, "/sight: There is no value named 'sight' here."),
        (Design, PLACE | {"losses": {"soiling_by_month": [1.0] * 13}}, "/losses/soiling_by_month: Give at most 12."),
        (Design, PLACE | {"name": "x" * 1000}, "/name: Write at most "),
        (Study, {"loose": {}}, "/loose: Give at least 1."),
        (Study, {"loose": {"a": {"pointers": ["/losses/soiling"], "values": [1]}}, "way": "all"}, "/way: Choose one of 'grid'"),
        (Study, {}, "/loose: 'loose' is needed."),
    ],
)
def test_a_fault_says_where_and_what_to_do(read, document, said):
    with pytest.raises(ValidationError) as refused:
        read.model_validate(document)
    assert first_fault(refused.value).startswith(said)
