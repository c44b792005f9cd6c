"""Any damage to a document is either still a job or one clear line: never another exception, never a hang."""

import copy
import json

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from lodestaff.job import Job
from lodestaff.job.file import job_text, parse_job
from lodestaff.quantities.errors import JobError

scalars = st.one_of(
    st.none(),
    st.booleans(),
    st.integers(-(10**12), 10**12),
    st.floats(allow_nan=True, allow_infinity=True),
    st.text(max_size=30),
    st.just([]),
    st.just({}),
    st.lists(st.integers(), max_size=3),
    st.dictionaries(st.text(max_size=5), st.integers(), max_size=3),
)


def places(data, path=()):
    """Every place in a document."""
    yield path
    if isinstance(data, dict):
        for key, value in data.items():
            yield from places(value, (*path, key))
    elif isinstance(data, list):
        for index, value in enumerate(data[:3]):
            yield from places(value, (*path, index))


def put(data, path, value):
    target = data
    for step in path[:-1]:
        target = target[step]
    target[path[-1]] = value


def opened(data):
    """The job, or the one line that says why not."""
    try:
        return parse_job(json.dumps(data).encode(), "fuzz.json")
    except JobError as trouble:
        message = str(trouble)
        assert "\n" not in message
        assert message.startswith("fuzz.json")
        return message


@settings(
    max_examples=150,
    deadline=None,
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow],
)
@given(st.data())
def test_one_value_replaced(larkmoor, data):
    document = json.loads(job_text(larkmoor))
    spots = [path for path in places(document) if path]
    path = data.draw(st.sampled_from(spots))
    put(document, path, data.draw(scalars))
    found = opened(document)
    if isinstance(found, Job):
        assert parse_job(job_text(found).encode(), "again.json") == found


@settings(
    max_examples=80,
    deadline=None,
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow],
)
@given(st.data())
def test_one_value_taken_out(larkmoor, data):
    document = json.loads(job_text(larkmoor))
    path = data.draw(st.sampled_from([path for path in places(document) if path]))
    parent = document
    for step in path[:-1]:
        parent = parent[step]
    del parent[path[-1]]
    opened(document)


@settings(
    max_examples=60,
    deadline=None,
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow],
)
@given(st.data())
def test_a_field_nobody_knows(larkmoor, data):
    """An unknown or misspelt field is refused by its place, never ignored."""
    document = json.loads(job_text(larkmoor))
    spots = [path for path in places(document) if isinstance(_at(document, path), dict) and not _is_map(path)]
    path = data.draw(st.sampled_from(spots))
    _at(document, path)["flavour"] = 3
    found = opened(document)
    assert isinstance(found, str)
    assert "flavour" in found


def _at(document, path):
    for step in path:
        document = document[step]
    return document


def _is_map(path):
    """Maps of names hold what they like; their values don't."""
    return path in (
        ("pack", "words"),
        ("pack", "conductor_colours"),
        ("pack", "values"),
        ("pack", "cautions"),
        ("pack", "tables"),
        ("pack", "containments", "sizes"),
        ("sheets", "modules"),
        ("sheets", "hybrids"),
        ("sheets", "batteries"),
    )


@settings(max_examples=100, deadline=None)
@given(st.binary(max_size=300))
def test_any_bytes(raw):
    with pytest.raises(JobError):
        parse_job(raw, "fuzz.json")


@settings(
    max_examples=60,
    deadline=None,
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow],
)
@given(st.data())
def test_any_cut(larkmoor, data):
    text = job_text(larkmoor)
    cut = data.draw(st.integers(0, len(text) - 3))
    with pytest.raises(JobError):
        parse_job(text[:cut].encode(), "fuzz.json")


@pytest.mark.parametrize("version", [1, 2])
@settings(
    max_examples=60,
    deadline=None,
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow],
)
@given(data=st.data())
def test_damage_to_older_versions(version, data):
    """The migrations meet damage too."""
    from pathlib import Path

    document = json.loads(
        (Path(__file__).parents[1] / "data" / f"larkmoor-version-{version}.json").read_text()
    )
    original = copy.deepcopy(document)
    path = data.draw(st.sampled_from([path for path in places(original) if path]))
    put(document, path, data.draw(scalars))
    opened(document)


def test_limits_of_version_one_that_are_no_limits_are_damage():
    from pathlib import Path

    document = json.loads((Path(__file__).parents[1] / "data" / "larkmoor-version-1.json").read_text())
    document["limits"] = "0"
    with pytest.raises(JobError, match="damaged for version 1"):
        parse_job(json.dumps(document).encode(), "fuzz.json")


def test_a_face_of_version_two_with_a_billion_modules_is_refused_at_once():
    from pathlib import Path

    document = json.loads((Path(__file__).parents[1] / "data" / "larkmoor-version-2.json").read_text())
    document["faces"][0]["count"] = 10**9
    with pytest.raises(JobError, match="modules"):
        parse_job(json.dumps(document).encode(), "huge.json")
