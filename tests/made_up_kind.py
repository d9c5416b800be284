"""A kind of aid that is nowhere in the application, registered as its one line in the registry would, and looked for.

Run as a program of its own, since everything made from the kinds is made when it is imported.
"""

import re
import sys
from dataclasses import dataclass, field
from pathlib import Path

from welotrope.core.errors import Field
from welotrope.core.hand.evidence import ShownBy
from welotrope.core.inputs import Group, field_spec, number_input
from welotrope.core.kit.aids import registry
from welotrope.core.kit.aids.kind import SET, AidInput, AidJudgement, AidKind, AidRecord, AskedAid, FinderView, Split
from welotrope.core.kit.aids.matte import screen_seen
from welotrope.core.rules import Finding, Rule

WIRE = number_input(
    "wire_um", Field("wire_um", "wire"), "Cross wire: thickness", unit="µm", low=1, high=100, group=Group.AIDS
)


@dataclass(frozen=True)
class CrossWire(AidRecord):
    """A wire in the plane of the screen against which the picture shifts as the eye moves."""

    # Called as the one field a matte screen must have: only its kind tells the two apart in a file or a database.
    finder_magnification: float = field(metadata=field_spec(WIRE))


KIND = AidKind(
    tag="cross_wire",
    label="Cross wire",
    about="A cross wire.",
    record=CrossWire, by=ShownBy.SCREEN,
    inputs=(WIRE,),
    made=lambda values: None if values["wire_um"] is None else CrossWire(values["wire_um"]),
    texts=lambda aid: {"wire_um": f"{aid.finder_magnification:g}"},
    asked=(AidInput(name="wire_um", low=1, high=100),),
    request=lambda said: AskedAid(aid=CrossWire(said["wire_um"])),
    judges=lambda aid, sight, target, sensor, eye: AidJudgement(defocus_mm=aid.finder_magnification / 1000),
    rules=(
        Rule(id="wire-parallax", topic=SET, when="always", source="what lies in one plane does not shift",
             says=lambda case: Finding(text="move the eye until nothing shifts against the wire")),
    ),
    views=(FinderView(key="cross_wire", name="Cross wire", seen=lambda aids: screen_seen(aids, Split(3.0))),),
    glass=True,
)  # fmt: skip


def main(folder: Path) -> None:
    registry.BODY_KINDS = (*registry.BODY_KINDS, KIND)

    from fastapi.testclient import TestClient

    from welotrope.core.kit.body import Body
    from welotrope.demo.build import build_demo
    from welotrope.interchange.kit_json import read_kit
    from welotrope.web.app.application import create_app

    build_demo(folder, pictures=False)
    with TestClient(
        create_app(folder), base_url="http://127.0.0.1:8420", headers={"origin": "http://127.0.0.1:8420"}
    ) as client:
        # Form and store.
        form = {"name": "Wired", "size": "36 × 24", "medium": "digital", "width_px": "6000", "wire_um": "12"}
        assert 'name="wire_um"' in client.get("/kit/bodies/new").text
        refused = client.post("/kit/bodies", data=form | {"wire_um": "500", "finder_magnification": "0.9"})
        assert "Wire: read “500\u00a0µm”; out of range. Write 1 to 100\u00a0µm." in refused.text
        answer = client.post("/kit/bodies", data=form | {"finder_magnification": "0.9"}, follow_redirects=False)
        assert answer.status_code == 303
        # File, out and in.
        text = client.get("/kit/export.json").text
        (body,) = [item for item in read_kit(text).document.bodies if item.name == "Wired"]
        assert isinstance(body, Body)
        assert CrossWire(12) in body.aids
        # API and its documentation.
        asked = {"focal_mm": 50, "stop": 1.4, "focus_mm": 2000, "blur_mm": 0.03, "lead_mm": 10.8}
        judged = client.post("/api/calc/aids", json=asked | {"aids": [{"kind": "cross_wire", "wire_um": 12}]}).json()
        assert judged["aids"][0]["defocus_mm"] == 0.012
        assert judged["aids"][0]["reasons"] == ["move the eye until nothing shifts against the wire"]
        assert "CrossWireAid" in client.get("/api/openapi.json").text
        # Practice, on the body that has it.
        wired = re.search(r'/kit/bodies/(\d+)"[^>]*>\s*Wired', client.get("/kit").text)
        assert wired
        client.post("/kit/setups", data={"body_id": wired[1], "lens_id": "1", "standard": "print"})
        offered = re.search(r'<option value="cross_wire"[^>]*>([^<]+)', client.get("/practice").text)
        assert offered
        assert offered[1].strip() == "Cross wire"
        begun = client.post("/practice/rounds", data={"exercise": "single", "aid": "cross_wire", "stop": "1.4"})
        assert "Cross wire" in begun.text
        # Aids: its rule is in the list, and it is judged.
        aids = client.get("/aids").text
        assert 'data-aid="cross_wire"' in aids
        assert "wire-parallax" in aids


if __name__ == "__main__":
    main(Path(sys.argv[1]))
