"""Numbers that are none, halves of letters, names without end: refused for every argument of every edit."""

import math
from dataclasses import replace

import pytest
from pydantic import BaseModel, ValidationError

from zarfwright.core.edits import EDITS, prepare
from zarfwright.core.edits.base import within
from zarfwright.core.errors import JobError
from zarfwright.core.plain import NAME_MOST, no_number, require_plain
from zarfwright.core.rig.things import Fixture
from zarfwright.core.show import Show
from zarfwright.core.units import parse_angle_deg, parse_length

NONE = (math.nan, math.inf, -math.inf, "nan", "inf", "-Infinity", "1e999")


def leaves(schema, root):
    """What leaves values of a JSON schema have, each with a function that makes a value from what the leaf holds."""
    if "$ref" in schema:
        schema = root["$defs"][schema["$ref"].rsplit("/", 1)[1]]
    for option in schema.get("anyOf", ()):
        yield from leaves(option, root)
    if schema.get("type") in ("number", "integer", "string") and not {"enum", "const"} & schema.keys():
        yield schema["type"], lambda leaf: leaf
    for part, wrapped in wrapped_parts(schema):
        for what, made in leaves(part, root):
            yield what, lambda leaf, wrapped=wrapped, made=made: wrapped(made(leaf))


def wrapped_parts(schema):
    """The schemas of what is in an array or an object, each with a function that puts a value of it in its place."""
    if schema.get("type") == "array":
        items = schema.get("prefixItems") or [schema["items"]]
        for i, item in enumerate(items):
            yield item, lambda value, i=i, items=items: [value if k == i else 0 for k, _ in enumerate(items)]
    elif isinstance(schema.get("additionalProperties"), dict):
        yield schema["additionalProperties"], lambda value: {"a": value}
    else:
        for name, part in schema.get("properties", {}).items():
            yield part, lambda value, name=name: {name: value}


def every_leaf():
    for edit, kind in EDITS.items():
        schema = kind.model.model_json_schema()
        for field, part in schema.get("properties", {}).items():
            for what, made in leaves(part, schema):
                yield edit, kind.model, field, what, made


def refusals(model: type[BaseModel], field: str, value) -> set[str]:
    """Why a value of one argument is refused."""
    try:
        model.model_validate({field: value})
    except ValidationError as wrong:
        return {error["type"] for error in wrong.errors() if error["loc"][0] == field}
    return set()


def test_no_argument_of_any_edit_takes_a_number_that_is_none():
    tried = 0
    for edit, model, field, what, made in every_leaf():
        if what == "number":
            tried += 1
            for none in NONE:
                assert refusals(model, field, made(none)) & {"finite_number", "float_parsing"}, (edit, field, none)
        elif what == "integer":
            assert refusals(model, field, made(math.inf)), (edit, field)
    assert tried > 30


def test_no_argument_of_any_edit_takes_halves_of_letters_or_lines_without_end():
    tried = 0
    for edit, model, field, what, made in every_leaf():
        if what == "string":
            tried += 1
            assert "string_unicode" in refusals(model, field, made("a\ud800")), (edit, field)
            assert "string_too_long" in refusals(model, field, made("a" * 300_000)), (edit, field)
    assert tried > 200


def test_a_refusal_says_which_and_what_to_do():
    for args, says in (
        ({"name": "a" * 201}, "“name” has 201 letters: 200 at most"),
        ({"name": "\udfff"}, "“name” holds a letter that is cut in half"),
        ({"width": 3}, "“width” cannot be used"),
    ):
        with pytest.raises(JobError, match=says):
            prepare(Show({}), "add deck", args)
    with pytest.raises(JobError, match=r"“by\.1” is not a finite number: type another"):
        prepare(Show({}), "move", {"ids": [], "by": [0, math.nan, 0]})


def test_names_stay_whole_up_to_their_length(bench):
    name = "N" * NAME_MOST
    assert bench.body(bench.made("add deck", name=name)).name == name


def test_what_is_worked_out_may_not_be_none_either(bench):
    deck = bench.made("add deck")
    body = bench.body(deck)
    object.__setattr__(body, "position", (math.inf, 0.0, 0.0))
    with pytest.raises(JobError, match=r"That would make position.0 of Deck 1 no number"):
        bench.do("move", ids=[deck], by=[1, 0, 0])


@pytest.mark.parametrize("text", ["(" * 5000, "-" * 5000 + "1", "1+" * 9000, "9" * 400, "1e999", "nan", "inf m", "1/0"])
def test_typed_values_without_end_are_refused_at_once(text):
    for read in (parse_length, parse_angle_deg):
        with pytest.raises(JobError):
            read(text)


def test_limits_hold_for_what_is_no_number():
    with pytest.raises(JobError, match="is not a number"):
        within(math.nan, "count", 0, 1)


def test_json_without_a_model_of_its_own_is_looked_through():
    nested = []
    for _ in range(100):
        nested = [nested]
    for value, says in (
        ({"a": [{"b": math.nan}]}, r"“a\.0\.b” is not a finite number"),
        ({"a": nested}, "nested more than 40 deep"),
        ({"name": "x" * 201}, "201 letters"),
        ({"x" * 201: 1}, "201 letters"),
        ({"a": "\ud83d"}, "cut in half"),
    ):
        with pytest.raises(JobError, match=says):
            require_plain(value)
    require_plain({"a": [1, 2.5, None, True, "text"], "name": "x" * 200})
    assert no_number({"a": [1.0, {"b": math.inf}]}) == ("a", 1, "b")
    assert no_number([1, "nan", None]) is None
    # What has not changed of a body is not looked at again; what has is.
    before = Fixture("heron", "Standard", hands={"pan": 1.0})
    assert no_number(replace(before, number=3), before) is None
    assert no_number(replace(before, hands={"pan": math.nan}), before) == ("hands", "pan")
    assert no_number(replace(before, hands={"pan": math.nan})) == ("hands", "pan")
