"""Gather: sorting, groups, looks at 100 %, the field camera, folders."""

import io
import shutil
from pathlib import Path

import numpy as np
import pytest
from django.contrib.auth.models import User
from django.test import Client
from PIL import Image

from fieldworld.camera import smaller
from fieldworld.outing import OUTING
from studio import field_camera
from studio.models import Frame, Group, Job
from studio.tasks import run_shoot, take_up_again
from tests.coast import shoot
from tests.studio.conftest import post, upload

pytestmark = pytest.mark.django_db(transaction=True)
SETTINGS = {
    "viewpoint": "boulders", "time": "evening", "mode": "single", "focal_mm": 24, "seconds": 0.004, "f_number": 8,
    "iso": 100, "frames": 1,
}  # fmt: skip


@pytest.fixture(scope="module")
def roll(tmp_path_factory) -> Path:
    """A twin, a short sweep and a single, small, as files."""
    folder = tmp_path_factory.mktemp("roll")
    for shot in OUTING:
        if shot.name.startswith("twin") or shot.name in ("sweep-2", "sweep-3", "path"):
            shoot(smaller(shot, 1200), folder / f"{shot.name}.dng")
    return folder


@pytest.fixture
def full(client, outing, roll):
    """The outing with the roll brought in and recognised."""
    for path in sorted(roll.glob("*.dng")):
        assert upload(client, outing, path.name, path.read_bytes()).status_code == 200
    return post(client, f"/api/outings/{outing['id']}/recognise", {}).json()


def _ids(outing, *names):
    return [f["id"] for f in outing["frames"] if f["name"].removesuffix(".dng") in names]


def test_frames_come_in_the_order_they_were_taken(full):
    assert [f["name"] for f in full["frames"]] == [
        "twin-dark.dng", "twin-bright.dng", "sweep-2.dng", "sweep-3.dng", "path.dng"
    ]  # fmt: skip


def test_groups_are_recognised_and_corrected_by_hand(client, full):
    kinds = {g["id"]: g["kind"] for g in full["groups"]}
    of = {f["name"]: kinds.get(f["group"]) for f in full["frames"]}
    assert of == {
        "twin-dark.dng": "twin", "twin-bright.dng": "twin", "sweep-2.dng": "sweep", "sweep-3.dng": "sweep", "path.dng": None,
    }  # fmt: skip
    twin = next(g["id"] for g in full["groups"] if g["kind"] == "twin")
    after = client.delete(f"/api/groups/{twin}").json()
    assert {g["kind"] for g in after["groups"]} == {"sweep"}
    # recognising again does not undo what was said by hand
    again = post(client, f"/api/outings/{full['id']}/recognise", {}).json()
    assert {g["kind"] for g in again["groups"]} == {"sweep"}
    path, dark = _ids(full, "path"), _ids(full, "twin-dark")
    made = post(
        client, f"/api/outings/{full['id']}/groups", {"frames": path + dark, "kind": "bracket"}
    ).json()
    assert {g["kind"] for g in made["groups"]} == {"sweep", "bracket"}
    assert {f["name"] for f in made["frames"] if f["group"] in [g["id"] for g in made["groups"] if g["by_hand"]]} == {
        "path.dng", "twin-dark.dng"
    }  # fmt: skip


def test_a_group_needs_two_frames_of_this_outing(client, full):
    url = f"/api/outings/{full['id']}/groups"
    one = post(client, url, {"frames": _ids(full, "path"), "kind": "sweep"}, 422).json()
    assert "two frames" in one["detail"]
    post(client, url, {"frames": ["nothing", *_ids(full, "path")], "kind": "sweep"}, 422)
    assert Group.objects.filter(by_hand=True).count() == 0


def test_sorting_is_kept_and_guarded(client, full):
    frame = full["frames"][0]["id"]
    answer = client.patch(f"/api/frames/{frame}", '{"sorting": "evening"}', content_type="application/json")
    assert answer.json()["sorting"] == "evening"
    assert Frame.objects.get(pk=frame).sorting == "evening"
    assert (
        client.patch(
            f"/api/frames/{frame}", '{"sorting": "best"}', content_type="application/json"
        ).status_code
        == 422
    )
    stranger = Client()
    stranger.force_login(User.objects.create_user("ben", password="another coast"))
    for call in (
        lambda: stranger.patch(
            f"/api/frames/{frame}", '{"sorting": "leave"}', content_type="application/json"
        ),
        lambda: stranger.get(f"/api/frames/{frame}/thumbnail"),
        lambda: stranger.get(f"/api/frames/{frame}/place?x=0.5&y=0.5&width=64&height=64"),
        lambda: stranger.post(f"/api/outings/{full['id']}/recognise"),
        lambda: stranger.delete(f"/api/groups/{full['groups'][0]['id']}"),
        lambda: stranger.post(f"/api/outings/{full['id']}/shoot", SETTINGS, content_type="application/json"),
        lambda: stranger.post(
            f"/api/outings/{full['id']}/folder", {"folder": "/"}, content_type="application/json"
        ),
    ):
        assert call().status_code == 404


def test_a_place_at_full_size_is_the_frames_own_px(client, full):
    frame = _ids(full, "path")[0]
    whole = Image.open(io.BytesIO(client.get(f"/api/frames/{frame}/thumbnail?long=2400").content))
    assert max(whole.size) == 1200
    part = client.get(f"/api/frames/{frame}/place?x=0.25&y=0.7&width=120&height=80")
    seen = np.asarray(Image.open(io.BytesIO(part.content))).astype(int)
    assert seen.shape == (80, 120, 3)
    left, top = round(0.25 * whole.width - 60), round(0.7 * whole.height - 40)
    beside = np.asarray(whole).astype(int)[top : top + 80, left : left + 120]
    assert np.abs(seen.mean((0, 1)) - beside.mean((0, 1))).max() < 4
    assert client.get(f"/api/frames/{frame}/place?x=2&y=0.7&width=120&height=80").status_code == 422


def test_the_sharper_frame_comes_first(client, outing, roll, tmp_path):
    """The same frame once more, its mosaic smoothed, is found the softer one where detail lies."""
    import cv2
    import rawpy

    source = roll / "path.dng"
    soft = tmp_path / "soft.dng"
    data = bytearray(source.read_bytes())
    with rawpy.imread(str(source)) as raw:
        mosaic = raw.raw_image.copy()
    blurred = mosaic.copy()
    for i in range(2):
        for j in range(2):
            blurred[i::2, j::2] = cv2.GaussianBlur(mosaic[i::2, j::2], (0, 0), 1.5)
    at = bytes(data).rfind(mosaic.tobytes()[:4000])
    data[at : at + mosaic.nbytes] = blurred.tobytes()
    soft.write_bytes(bytes(data))
    ids = [upload(client, outing, p.name, p.read_bytes()).json()["id"] for p in (soft, source)]
    ranked = post(
        client, f"/api/outings/{outing['id']}/sharpness", {"frames": ids, "x": 0.5, "y": 0.75}
    ).json()
    assert [r["frame"] for r in ranked] == [ids[1], ids[0]]
    assert ranked[0]["sharpness"] > 1.3 * ranked[1]["sharpness"]


def test_the_field_camera_offers_and_shows(client):
    offer = client.get("/api/camera").json()
    assert {"single", "bracket", "sweep", "long"} == set(offer["modes"]) == set(offer["frames"])
    assert {"focal_mm", "seconds", "f_number", "iso", "frames", "step", "turn", "tilt"} == set(
        offer["limits"]
    )
    assert all(limit["low"] < limit["high"] for limit in offer["limits"].values())
    seen = post(client, "/api/camera/look", SETTINGS).json()
    assert seen["picture"].startswith("/9j/")
    assert abs(sum(seen["ladder"]["bars"]) - 1) < 0.01
    darker = post(client, "/api/camera/look", SETTINGS | {"seconds": 0.001}).json()
    assert darker["ladder"]["centre"] == pytest.approx(seen["ladder"]["centre"] - 2, abs=0.15)
    field_camera.viewfinder().close()


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"iso": -1}, "cannot set a ISO of -1"), ({"seconds": 0}, "shutter of 0"), ({"focal_mm": 600}, "600 mm"),
        ({"mode": "sweep", "frames": 400}, "number of frames of 400"),
        ({"mode": "sweep", "frames": 9, "focal_mm": 20}, "turns through 200°"), ({"viewpoint": "moon"}, "no viewpoint 'moon'"),
        ({"turn": 400}, "turn of 400"),
        ({"mode": "bracket", "frames": 3, "step": 9}, "step of 9"),
    ],
)  # fmt: skip
def test_what_the_camera_cannot_do_is_said(client, outing, change, said):
    answer = post(client, "/api/camera/look", SETTINGS | change, 422).json()
    assert said in answer["detail"]
    job = post(client, f"/api/outings/{outing['id']}/shoot", SETTINGS | change).json()
    done = Job.objects.get(pk=job["id"])
    assert done.state == "failed"
    assert said in done.message
    assert Frame.objects.count() == 0
    field_camera.viewfinder().close()


@pytest.fixture
def small_sensor(monkeypatch, tmp_path):
    """A field camera with few px, so that a release takes a moment: the real device, its sensor patched."""
    driver = tmp_path / "camera.py"
    driver.write_text("from fieldworld import device\ndevice.SENSOR = (600, 400)\ndevice.main()\n")
    popen = field_camera.subprocess.Popen
    monkeypatch.setattr(
        field_camera.subprocess,
        "Popen",
        lambda args, **kw: popen(
            [args[0], str(driver)], **kw | {"env": kw["env"] | {"PYTHONPATH": str(kw["cwd"])}}
        ),
    )


def test_a_bracket_arrives_and_is_recognised(client, outing, small_sensor):
    wanted = SETTINGS | {"mode": "bracket", "frames": 3, "step": 1.5}
    job = post(client, f"/api/outings/{outing['id']}/shoot", wanted).json()
    done = client.get(f"/api/jobs/{job['id']}").json()
    assert (done["state"], done["message"]) == ("done", "3 frames have arrived.")
    after = client.get("/api/outings").json()[0]
    assert len(after["frames"]) == 3
    assert [g["kind"] for g in after["groups"]] == ["bracket"]
    seconds = [f["info"]["exposure_s"] for f in after["frames"]]
    assert np.allclose(np.log2(np.array(seconds) / seconds[0]), [0, 1.5, 3], atol=0.05)
    assert not field_camera.landing_folder(job["id"]).exists()


def test_disconnecting_in_the_middle_keeps_what_had_arrived(client, outing, small_sensor, monkeypatch):
    """The cable is pulled after the second of five frames."""
    ask = field_camera.FieldCamera.ask

    def pulled(self, **request):
        for message in ask(self, **request):
            yield message
            if message.get("number") == 2:
                self._process.kill()

    monkeypatch.setattr(field_camera.FieldCamera, "ask", pulled)
    job = post(
        client, f"/api/outings/{outing['id']}/shoot", SETTINGS | {"mode": "bracket", "frames": 5, "step": 1}
    ).json()
    done = Job.objects.get(pk=job["id"])
    assert (done.state, done.message) == ("failed", "The field camera has been disconnected.")
    assert Frame.objects.count() == 2
    # and it can be shot again
    monkeypatch.setattr(field_camera.FieldCamera, "ask", ask)
    post(client, f"/api/outings/{outing['id']}/shoot", SETTINGS)
    assert Frame.objects.count() == 3


def test_a_cancelled_release_stops_between_frames(client, ana, outing, small_sensor):
    wanted = SETTINGS | {"mode": "bracket", "frames": 5, "step": 1}
    job = Job.objects.create(user=ana, outing_id=outing["id"], kind="shoot", settings=wanted, cancel=True)
    run_shoot.call_local(job.id)
    assert Job.objects.get(pk=job.id).message == "Cancelled. What had arrived is kept."
    assert Frame.objects.count() == 1


def test_a_release_the_studio_stopped_in_is_not_taken_twice(client, ana, outing):
    job = Job.objects.create(
        user=ana, outing_id=outing["id"], kind="shoot", settings=SETTINGS, state="running"
    )
    assert take_up_again() == 0
    job.refresh_from_db()
    assert job.state == "failed"
    assert "What had arrived is kept" in job.message
    assert Frame.objects.count() == 0


def test_a_folder_is_read_where_it_lies(client, outing, roll, tmp_path, settings):
    settings.READABLE_FOLDERS = [tmp_path]
    place = tmp_path / "card"
    shutil.copytree(roll, place)
    (place / "notes.txt").write_text("not a frame")
    (place / "broken.dng").write_bytes(b"II*\0 nothing")
    before = {p.name: p.read_bytes() for p in place.iterdir()}
    job = post(client, f"/api/outings/{outing['id']}/folder", {"folder": str(place)}).json()
    done = Job.objects.get(pk=job["id"])
    assert done.state == "done"
    assert done.message.startswith("5 of 6 files have arrived. broken.dng cannot be opened")
    assert {p.name: p.read_bytes() for p in place.iterdir()} == before
    after = client.get("/api/outings").json()[0]
    assert {g["kind"] for g in after["groups"]} == {"twin", "sweep"}
    # reading it again brings nothing twice
    post(client, f"/api/outings/{outing['id']}/folder", {"folder": str(place)}).json()
    assert Frame.objects.count() == 5


@pytest.mark.parametrize(
    ("folder", "said"), [("/etc", "may not be read"), ("{}/none", "no folder"), ("{}/empty", "no frames")]
)
def test_folders_that_cannot_be_read_are_said(client, outing, tmp_path, settings, folder, said):
    settings.READABLE_FOLDERS = [tmp_path]
    (tmp_path / "empty").mkdir()
    answer = post(
        client, f"/api/outings/{outing['id']}/folder", {"folder": folder.format(tmp_path)}, 422
    ).json()
    assert said in answer["detail"]
    assert Job.objects.count() == 0
