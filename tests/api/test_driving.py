"""What a console moves: a simulated one lifts a bridge with six heads on it, and everything that is asked knows it."""

import numpy as np
import orjson
import pytest
from websockets.sync.client import connect

from tests.api.test_consoles import Simulated
from tests.processes import Program, wait_for
from zarfwright.core.aiming.solve import lens
from zarfwright.core.carriers.planned import plan_of
from zarfwright.core.carriers.posed import by_id, posed
from zarfwright.core.rig.hang import clamp_placement
from zarfwright.core.space import rotate
from zarfwright.core.types.chain import chains_of
from zarfwright.links.frames import HEADER, POSES
from zarfwright.web.desk import Desk


@pytest.fixture(scope="module")
def program(tmp_path_factory):
    made = Program(tmp_path_factory.mktemp("driving") / "show.zarf")
    yield made
    assert made.end() == 0, made.output()
    assert "Traceback" not in made.output(), made.output()


LECTERN = (0.0, 1.0, 1.6)


@pytest.fixture(scope="module")
def bridge(program):
    """A truss on a carrier, with six heads on it that keep their aim, and a lift of 3 m at 3 m/s."""
    document = program.document()["objects"]
    heron = next(row["id"] for row in document if row["kind"] == "type" and row["body"]["name"].startswith("Heron"))
    truss = program.edit("add truss", name="Bridge truss", length="8m", start_trim="5m", y="US 9")["select"][0]
    heads = program.edit("place along rail", structure=truss, type=heron, count="6", first_number="601")["select"]
    carrier = program.edit("make carrier", ids=[truss, *heads], name="Bridge", pivot=[0, 9, 5])["select"][0]
    driver = program.edit(
        "add driver", thing=carrier, number="901", start="9.001", usual="lift",
        channels=[{"axis": "z", "low": "0m", "home": "0m", "high": "3m", "speed": "3m", "acceleration": "6m"}],
    )["select"][0]  # fmt: skip
    point = program.edit("add focus point", name="Lectern", point=LECTERN)["select"][0]
    program.edit("aim at", ids=heads, focus=point)
    program.edit("keep aim", ids=heads)
    return {"carrier": carrier, "truss": truss, "heads": heads, "driver": driver}


class Seen:
    """What a browser hears of poses."""

    def __init__(self, program):
        told = program.get("/api/shows/SHOW/ticket")
        where = f"{told['url']}?ticket={told['ticket']}"
        self.socket = connect(where, max_size=None, compression=None, ping_interval=None, legacy=True)
        self.groups, self.plan, self.poses = [], 0, {}

    def hear(self):
        """Take in whatever has come."""
        while True:
            try:
                message = self.socket.recv(timeout=0.05)
            except TimeoutError:
                return self.poses
            if isinstance(message, str):
                event = orjson.loads(message)
                if event["event"] == "carried":
                    self.groups, self.plan = event["groups"], event["plan"]
            elif HEADER.unpack_from(message)[1] == POSES and HEADER.unpack_from(message)[3] == self.plan & 0xFFFF:
                rows = np.frombuffer(message[HEADER.size :], "<f4").reshape(-1, 8)
                self.poses = dict(zip(self.groups, rows.astype(float), strict=True))


def test_a_console_lifts_the_bridge_and_its_six_heads_stay_on_the_lectern(program, bridge):
    seen = Seen(program)
    console = Simulated(program)
    # It has the driver from its GDTF, as any lamp.
    taken = console.offered()["result"]
    assert not [line for line in taken["lines"] if line["number"] == "901" and line["answer"] != "taken"]
    # Nothing jumps when it begins to send: its channels rest at home.
    wait_for(lambda: any(u["universe"] == 9 and u["state"] == "live" for u in program.signal()["universes"]), "levels")
    wait_for(lambda: bridge["carrier"] in seen.hear(), "the first poses")
    assert seen.hear()[bridge["carrier"]] == pytest.approx([0, 0, 0, 0, 0, 0, 1, 1], abs=1e-6)
    console.press(do="value", number=901, function="XYZ_Z", value=3.0)
    wait_for(lambda: seen.hear()[bridge["carrier"]][2] > 2.999, "the bridge to be up")
    # What is seen is kept as it is: the heads have turned with the bridge.
    look = program.edit("keep look", name="Bridge up")["select"][0]
    said = program.look_values(look)
    assert said[bridge["driver"]]["shift z"] == pytest.approx(3.0, abs=1e-4)
    assert off_lectern_m(program, bridge, said) < 2e-3
    # Asked of light and of landings, it is up there as well.
    landed = {one["fixture"]: one for one in program.get("/api/shows/SHOW/landings")}
    status, lit = program.post("/api/shows/SHOW/pointing", {"ids": bridge["heads"][:1], "point": LECTERN})
    assert status == 200
    assert lit["heads"][0]["lens"][2] > 7.0
    assert set(landed) <= {row["id"] for row in program.document()["objects"]}
    # What would be done is seen beside what is there now.
    move = {"kind": "move", "args": {"ids": [bridge["truss"]], "by": [0, 0, 0.25]}, "preview": True, "who": "tester"}

    def ghost_height():
        status, answer = program.post("/api/shows/SHOW/edits", move)
        assert status == 200, answer
        return answer["ghost"]["scene"][0]["position"][2]

    home = next(one for one in program.document()["scene"] if one["id"].startswith(bridge["truss"]))["position"][2]
    wait_for(lambda: abs(ghost_height() - home - 3.25) < 1e-3, "the ghost beside the bridge that is up")
    # It is held where it was when the console goes.
    console.press(do="end")
    wait_for(lambda: not program.get("/api/shows/SHOW/simulated")["consoles"], "the console to be gone")
    assert seen.hear()[bridge["carrier"]][2] == pytest.approx(3.0, abs=1e-4)
    # Where the console is not followed, home has the say, and it goes there.
    program.edit("set show", follow_console=False)
    wait_for(lambda: abs(seen.hear()[bridge["carrier"]][2]) < 1e-6, "the bridge to be down")
    program.edit("set show", follow_console=True)
    seen.socket.close()


def off_lectern_m(program, bridge, said):
    """How far beside the lectern the beams of the heads pass at most, metres, from where the bridge is."""
    desk = Desk(program.file, look=True)
    try:
        plan = plan_of(desk.show)
        up = np.array([[0, 0, said[bridge["driver"]]["shift z"], 0, 0, 0, 1, 1]], dtype=float)
        stand = posed(desk.show, by_id(plan, up))
    finally:
        desk.close()
    away = []
    for head in bridge["heads"]:
        fixture = stand.items[head].body
        chain = chains_of(stand.types[fixture.type], fixture.mode)[0]
        clamp = clamp_placement(stand, fixture)
        at, way = lens(chain, said[head]["pan"], said[head]["tilt"])
        start, along = clamp.apply(at), rotate(clamp.rotation, way)
        to = np.asarray(LECTERN) - start
        away.append(float(np.linalg.norm(to - along * (to @ along))))
    return max(away)


def test_a_look_stands_where_it_has_the_bridge_and_a_page_is_told_so(program, bridge):
    up = program.edit("keep look", name="Half up", values={bridge["driver"]: {"shift z": 1.5}})["select"][0]
    stand = program.get(f"/api/shows/SHOW/looks/{up}/stand")
    home = program.document()
    truss = next(one for one in stand["solids"] if one["id"].startswith(bridge["truss"]))
    was = next(one for one in home["scene"] if one["id"] == truss["id"])
    assert np.subtract(truss["position"], was["position"]) == pytest.approx((0, 0, 1.5))
    head = bridge["heads"][0]
    assert np.subtract(stand["mounts"][head]["position"], home["mounts"][head]["position"]) == pytest.approx(
        (0, 0, 1.5)
    )
    assert bridge["driver"] not in home["mounts"]
    alone = program.get(f"/api/shows/SHOW/looks/{up}/stand?driven=false")
    assert alone == {"solids": [], "mounts": {}}


def test_two_drivers_on_one_axis_are_refused_with_the_field_at_fault(program, bridge):
    status, answer = program.post(
        "/api/shows/SHOW/edits",
        {"kind": "add driver", "args": {"thing": bridge["carrier"], "usual": "fly bar"}, "who": "tester"},
    )
    assert status == 400
    assert answer["field"] == "channels"
    assert "driver 901" in answer["error"]


def test_the_type_of_a_driver_is_among_those_of_the_show_and_says_what_it_moves(program, bridge):
    rows = {row["id"]: row for row in program.document()["objects"]}
    entry = rows[rows[bridge["driver"]]["body"]["type"]]
    assert program.document()["types"][entry["id"]]["driver"] == {
        "channels": [{"axis": "z", "low": 0, "home": 0, "high": 3, "speed": 3, "acceleration": 6, "bits": 16}],
        "returns": False,
    }
    assert entry["body"]["name"] == "Lift z 0 to 3000 mm"
