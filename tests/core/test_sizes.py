"""A set piece that cannot be as large as its file says is likely in another unit."""

import pytest

from zarfwright.core.site.sizes import likely_unit


@pytest.mark.parametrize(
    ("greatest", "wanted"),
    [
        (2400, "mm"),
        (24_000, "mm"),
        (240, "cm"),
        (6.2, None),
        (62, None),
        (0.3, None),
        (0, None),
        (1e9, None),
        (90_000, "mm"),
    ],
)
def test_sizes_that_cannot_be_are_doubted_with_the_likely_unit(greatest, wanted):
    assert likely_unit(greatest) == wanted


def test_a_size_is_doubted_at_the_unit_that_was_chosen():
    assert likely_unit(2400, 0.001) is None
    assert likely_unit(2.4, 0.001) == "ft"
