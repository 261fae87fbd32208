"""kill -9 at any moment, a few times: the whole of it is `python -m bench.crash`."""

import pytest

from bench.crash import crash


@pytest.mark.timeout(240)
def test_kills_at_random_moments_lose_nothing_and_leave_nothing_running(tmp_path):
    result = crash(4, 11, tmp_path)
    assert (result.lost, result.left) == ([], [])
    assert min(result.kills.values()) > 0
    assert result.acknowledged > 20
