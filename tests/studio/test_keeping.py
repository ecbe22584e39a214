"""The data folder in order: what a stop leaves is swept, what is removed can be taken back, a job that kills is given up."""

import errno
import threading
from datetime import timedelta

import numpy as np
import pytest
from django.db import OperationalError, connection
from django.db.models import QuerySet
from django.test import Client
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from studio import exporting, services, tasks
from studio.keeping import Taken, held, prune
from studio.models import Frame, Job, Outing, Revision, Scene
from studio.tasks import TRIES, frames_in, take_up_again
from sunlatch.errors import FrameError
from tests.studio.conftest import post, upload

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture(autouse=True)
def _folders(settings, tmp_path):
    settings.BLOB_FOLDER, settings.PYRAMID_FOLDER = tmp_path / "blobs", tmp_path / "pyramids"
    settings.JOIN_FOLDER = tmp_path / "joins"


def _files(root):
    return {p.relative_to(root).as_posix() for p in root.rglob("*") if p.is_file()}


def test_what_a_kill_left_over_is_swept_at_start(client, frame, settings, ana):
    kept = services.frame_path(frame["sha256"])
    job = Job.objects.create(user=ana, settings={}, state=Job.DONE, file_name="a.tif")
    half = Job.objects.create(user=ana, settings={}, state=Job.FAILED, file_name="half.tif")
    left = [
        settings.ARRIVING_FOLDER / "arriving-1-ab.part",
        settings.FRAME_FOLDER / "arriving-1-cd.part",
        settings.BLOB_FOLDER / "cd" / ".cd00.77.part",
        settings.EXPORT_FOLDER / job.id / ".a.tif.part",
        settings.EXPORT_FOLDER / half.id / "half.tif",
        settings.PYRAMID_FOLDER / "x-p3" / "whole.part99" / "L0.npy",
        settings.JOIN_FOLDER / "abc" / "whole.part99" / "L0.npy",
        settings.PYRAMID_FOLDER / ".gone-1-2-x" / "whole" / "L0.npy",
        settings.DATA / "landing" / "job" / "frame.dng",
    ]
    good = [kept, settings.EXPORT_FOLDER / job.id / "a.tif", settings.BLOB_FOLDER / "cd" / "cd00"]
    for path in [*left, *good[1:]]:
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(b"x")
    prune()
    assert [p for p in left if p.exists()] == []
    assert [p for p in good if not p.exists()] == []
    assert settings.ARRIVING_FOLDER.is_dir()


def test_one_studio_to_a_data_folder():
    with held("studio.lock"):
        with pytest.raises(Taken), held("studio.lock"):
            pass
        with held("worker.lock"):
            pass
    with held("studio.lock"):
        pass


def test_a_job_that_stops_its_worker_again_and_again_is_given_up(client, scene, ana):
    wanted = {"kind": "jpg", "space": "srgb", "bits": 8, "long_edge": 64}
    common = {
        "user": ana,
        "scene_id": scene["id"],
        "settings": wanted,
        "document": scene["revision"]["document"],
    }
    deadly = Job.objects.create(**common, state=Job.RUNNING, tries=TRIES, file_name="a.jpg")
    once = Job.objects.create(**common, state=Job.RUNNING, tries=1, file_name="b.jpg")
    assert take_up_again() == 1
    deadly.refresh_from_db()
    once.refresh_from_db()
    assert deadly.state == Job.FAILED
    assert "after two crashes" in deadly.message
    assert (once.state, once.tries) == (Job.DONE, 2)


# removing


@pytest.mark.parametrize("what", ["outing", "frame", "scene", "job"])
def test_what_is_removed_is_gone_from_sight_and_can_be_taken_back(client, outing, frame, scene, ana, what):
    job = Job.objects.create(user=ana, scene_id=scene["id"], settings={}, file_name="a.tif", state="done")
    ids = {"outing": outing["id"], "frame": frame["id"], "scene": scene["id"], "job": job.id}
    addresses = {
        "outing": f"/api/outings/{outing['id']}/frames",
        "frame": f"/api/frames/{frame['id']}/thumbnail",
        "scene": f"/api/scenes/{scene['id']}",
        "job": f"/api/jobs/{job.id}",
    }
    within = {
        "outing": ["outing", "frame", "scene"],
        "frame": ["frame", "scene"],
        "scene": ["scene"],
        "job": ["job"],
    }
    gone = post(client, "/api/removed", {"what": what, "id": ids[what]}).json()
    for key, path in addresses.items():
        assert client.get(path).status_code == (404 if key in within[what] else 200), key
    listed = client.get("/api/outings").json()
    frames = [f for o in listed for f in o["frames"]]
    assert len(listed) == (0 if what == "outing" else 1)
    assert len(frames) == (0 if what in ("outing", "frame") else 1)
    assert [r["id"] for r in client.get("/api/removed").json()] == [ids[what]]
    assert gone["until"] > timezone.now().isoformat()[:10]
    post(client, "/api/removed", {"what": what, "id": ids[what]}, 404)
    assert client.delete(f"/api/removed/{what}/{ids[what]}").status_code == 204
    for path in addresses.values():
        assert client.get(path).status_code == 200
    assert client.get("/api/removed").json() == []


def test_anothers_things_are_not_removed(client, frame, django_user_model):
    other = Client()
    other.force_login(django_user_model.objects.create_user("ben", password="another coast"))
    post(other, "/api/removed", {"what": "frame", "id": frame["id"]}, 404)
    post(client, "/api/removed", {"what": "frame", "id": frame["id"]})
    assert other.get("/api/removed").json() == []
    assert other.delete(f"/api/removed/frame/{frame['id']}").status_code == 404
    assert Frame.everything.get().removed is not None


def test_a_removed_frame_brought_in_again_is_there_again_with_its_scenes(client, outing, frame, scene, coast):
    post(client, "/api/removed", {"what": "frame", "id": frame["id"]})
    again = upload(client, outing, "again.dng", coast.path.read_bytes()).json()
    assert again["id"] == frame["id"]
    assert client.get(f"/api/scenes/{scene['id']}").status_code == 200


def test_after_a_week_it_is_gone_for_good(client, outing, frame, scene, settings):
    path = services.frame_path(frame["sha256"])
    for what, key in (("scene", scene["id"]), ("frame", frame["id"])):
        post(client, "/api/removed", {"what": what, "id": key})
    prune()
    assert path.exists()
    assert Revision.objects.count() == 1
    long_ago = timezone.now() - timedelta(days=settings.REMOVED_DAYS + 1)
    Frame.everything.update(removed=long_ago)
    prune()
    assert not path.exists()
    assert (Frame.everything.count(), Scene.everything.count(), Revision.objects.count()) == (0, 0, 0)
    assert Outing.objects.count() == 1


def _lends(scene, lender, client):
    """A scene made of a second frame, too."""
    document = scene["revision"]["document"]
    source = {"id": "lender", "sha256": lender["sha256"], "path": lender["name"]}
    loan = {"id": "loan", "source": "lender", "rotation": [0, 0, 0], "focal": 900.0, "ev": 0.0, "params": {}}
    document["sources"].append(source)
    document["loans"] = [loan]
    save = {"base": 1, "document": document, "words": "Loan"}
    post(client, f"/api/scenes/{scene['id']}/revisions", save)
    return document


@pytest.mark.parametrize("undone", [False, True])
def test_an_original_that_a_scene_is_made_of_stays(client, outing, scene, coast, settings, undone):
    """A lender that was removed; whether the loan stands, or can come back by a redo."""
    lender = upload(client, outing, "lender.dng", coast.path.read_bytes() + b"\0").json()
    document, path = _lends(scene, lender, client), f"/api/scenes/{scene['id']}"
    said = post(client, "/api/removed", {"what": "frame", "id": lender["id"]}).json()
    assert said["used_by"] == ["stack"]
    base = 2
    if undone:
        base = post(client, f"{path}/undo", {"base": 2}).json()["number"]
    Frame.everything.exclude(removed=None).update(
        removed=timezone.now() - timedelta(days=settings.REMOVED_DAYS + 1)
    )
    prune()
    assert services.frame_path(lender["sha256"]).exists()
    if undone:
        base = post(client, f"{path}/redo", {"base": base}).json()["number"]
    post(client, f"{path}/picture", {"width": 60, "height": 40})
    save = {"base": base, "document": document, "words": "more"}
    post(client, f"{path}/revisions", save)
    # gone with the last scene that names it
    Scene.everything.update(removed=timezone.now() - timedelta(days=settings.REMOVED_DAYS + 1))
    prune()
    assert not services.frame_path(lender["sha256"]).exists()


def test_a_scene_whose_frame_is_gone_after_all_is_saved_all_the_same(client, outing, scene, coast):
    lender = upload(client, outing, "lender.dng", coast.path.read_bytes() + b"\0").json()
    document, path = _lends(scene, lender, client), f"/api/scenes/{scene['id']}/revisions"
    Frame.everything.filter(pk=lender["id"]).delete()
    post(client, path, {"base": 2, "document": document, "words": "more"})
    # but nobody brings in what never was his
    document["sources"][1]["sha256"] = "0" * 64
    post(client, path, {"base": 3, "document": document, "words": "theirs"}, 422)


def test_with_another_database_originals_are_set_aside_and_come_back(client, frame, ana, settings, caplog):
    path, export = services.frame_path(frame["sha256"]), settings.EXPORT_FOLDER / ("e" * 32) / "a.tif"
    data = path.read_bytes()
    export.parent.mkdir(parents=True)
    export.write_bytes(b"x")
    held = Frame.everything.get()
    Frame.everything.all().delete()
    prune()
    assert not path.exists()
    (aside,) = (settings.DATA / "set-aside").iterdir()
    kept = aside / "frames" / path.parent.name / path.name
    assert kept.read_bytes() == data
    assert (aside / "exports" / ("e" * 32) / "a.tif").exists()
    assert str(aside) in caplog.text
    assert "Nothing was deleted" in caplog.text
    prune()
    assert kept.exists()
    held.save(force_insert=True)
    prune()
    assert path.read_bytes() == data


def test_what_cannot_be_shown_names_the_line_whose_doing_it_is(client, outing, scene, coast):
    lender = upload(client, outing, "lender.dng", coast.path.read_bytes() + b"\0").json()
    document = _lends(scene, lender, client)
    services.store().forget(lender["sha256"])
    services.frame_path(lender["sha256"]).unlink()
    path, look = f"/api/scenes/{scene['id']}/picture", {"document": document, "width": 60, "height": 40}
    told = post(client, path, look, 422).json()
    assert (told["line"], "lender" in told["detail"] or lender["sha256"][:8] in told["detail"]) == (
        "loan",
        True,
    )
    document["loans"][0]["on"] = False
    post(client, path, look)
    # a repair whose map is not there
    outline = [0.2, 0.1, 0.3, 0.1, 0.3, 0.2]
    regrow = {"id": "r", "kind": "regrow", "area": {"outline": outline}, "map": "0" * 64, "seed": 0}
    document["repairs"] = [regrow]
    assert post(client, path, look, 422).json()["line"] == "r"


# listing


def test_two_thousand_frames_are_listed_in_pages_with_a_handful_of_queries(client, outing):
    of = Outing.objects.get()
    Frame.objects.bulk_create(
        Frame(
            outing=of, sha256=f"{n:064d}", name=f"f{n:04d}.dng", bytes=1, info={},
            taken="" if n % 50 == 0 else f"2026:10:{1 + n % 28:02d} 10:00:00",
        )
        for n in range(2000)
    )  # fmt: skip
    with CaptureQueriesContext(
        connection,
    ) as seen:
        listed = client.get("/api/outings").json()
    assert len(seen) <= 9
    assert listed[0]["count"] == 2000
    frames = listed[0]["frames"]
    while len(frames) < 2000:
        page = client.get(f"/api/outings/{outing['id']}/frames?after={len(frames)}").json()
        assert page
        frames += page
    assert len({f["id"] for f in frames}) == 2000
    assert [f["name"] for f in frames[-40:]] == [
        f"f{n:04d}.dng" for n in range(0, 2000, 50)
    ]  # untold come last


# arriving


def test_six_identical_bad_uploads_at_once_all_get_the_same_sentence(client, outing, coast, settings):
    cut = coast.path.read_bytes()[: coast.path.stat().st_size // 2]
    said = []

    def send():
        one = Client()
        one.cookies = client.cookies
        said.append(upload(one, outing, "cut.dng", cut).json()["detail"])
        connection.close()

    threads = [threading.Thread(target=send) for _ in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(60)
    assert len(said) == 6
    assert {s.partition(":")[0] for s in said} == {"cut.dng cannot be opened"}
    assert all("cut short" in s for s in said)
    assert not _files(settings.FRAME_FOLDER) if settings.FRAME_FOLDER.exists() else True
    assert _files(settings.ARRIVING_FOLDER) == set()


def test_a_frame_of_which_no_picture_can_be_made_is_no_frame(client, outing, coast, monkeypatch, settings):
    def broken(*_, **__):
        raise ZeroDivisionError

    monkeypatch.setattr("studio.thumbnails.picture_8", broken)
    answer = upload(client, outing, "odd.dng", coast.path.read_bytes())
    assert answer.status_code == 422
    assert (
        "odd.dng cannot be opened: it was decoded, but no picture can be made of it"
        in answer.json()["detail"]
    )
    assert Frame.everything.count() == 0
    assert not list(settings.FRAME_FOLDER.rglob("*.dng"))


def test_one_bad_file_stops_no_other_of_its_folder(client, outing, coast, tmp_path, settings, monkeypatch):
    roll = tmp_path / "roll"
    roll.mkdir()
    settings.READABLE_FOLDERS = [roll]
    data = coast.path.read_bytes()
    for n in range(3):
        (roll / f"{n}.dng").write_bytes(data + bytes([n]))
    import studio.tasks

    real = studio.tasks._take_in

    def odd(job, path):
        if path.name == "1.dng":
            raise RuntimeError("something nobody expected")
        real(job, path)

    monkeypatch.setattr(studio.tasks, "_take_in", odd)
    job = post(client, f"/api/outings/{outing['id']}/folder", {"folder": str(roll)}).json()
    done = Job.objects.get(pk=job["id"])
    assert done.state == Job.DONE
    assert done.message == "2 of 3 files have arrived. 1.dng was not taken in (RuntimeError)."
    assert Frame.objects.count() == 2


@pytest.mark.parametrize(
    "folder", ["\0", "~nobody-of-that-name/x", "x" * 5000, "/" + "y" * 300, "/root/../etc"]
)
def test_folders_that_cannot_be_are_said_and_no_path_of_the_server_is(
    client, outing, settings, tmp_path, folder
):
    settings.READABLE_FOLDERS = [tmp_path / "secret-place"]
    answer = client.post(
        f"/api/outings/{outing['id']}/folder", {"folder": folder[:4096]}, content_type="application/json"
    )
    assert answer.status_code == 422
    assert "secret-place" not in answer.json()["detail"]
    assert len(answer.json()["detail"]) < 5000


def test_a_link_to_a_file_elsewhere_is_not_followed(tmp_path, settings, coast):
    inside, outside = tmp_path / "inside", tmp_path / "outside"
    inside.mkdir()
    outside.mkdir()
    (outside / "secret.dng").write_bytes(b"x")
    (inside / "own.dng").write_bytes(b"x")
    (inside / "link.dng").symlink_to(outside / "secret.dng")
    settings.READABLE_FOLDERS = [inside]
    assert [p.name for p in frames_in(inside)] == ["own.dng"]
    (inside / "own.dng").unlink()
    with pytest.raises(FrameError, match="no frames"):
        frames_in(inside)


def test_a_scenes_long_name_makes_a_file_a_disk_can_hold(client, scene):
    Scene.objects.update(name="日没の海岸線" * 33)
    job = post(
        client, f"/api/scenes/{scene['id']}/exports", {"kind": "jpg", "bits": 8, "long_edge": 64}
    ).json()
    assert Job.objects.get(pk=job["id"]).state == Job.DONE
    assert len(job["file_name"].encode()) < 255


# saving


def test_saving_renders_and_decodes_nothing(client, scene, monkeypatch):
    """Not inside its transaction, nor at all: the map of a scene needs the frame's facts only."""
    monkeypatch.setattr(services, "development", lambda *a, **k: pytest.fail("rendered"))
    monkeypatch.setattr(services.store(), "first_look", lambda *a, **k: pytest.fail("decoded"))
    document = scene["revision"]["document"]
    save = {"base": 1, "document": document, "words": "x"}
    assert post(client, f"/api/scenes/{scene['id']}/revisions", save).json()["number"] == 2
    document["ground"]["plumb"]["params"].update(lean=39.0, swing=39.0)
    document["ground"]["trim"]["params"].update(stretch=1.0)
    document["ground"]["lens"]["params"].update(radial=0.3)
    answer = client.post(
        f"/api/scenes/{scene['id']}/revisions", save | {"base": 2, "document": document},
        content_type="application/json",
    )  # fmt: skip
    assert answer.status_code in (200, 422)


def test_an_attempt_sent_again_is_saved_once(client, scene):
    save = {"base": 1, "document": scene["revision"]["document"], "words": "x", "key": "attempt-1"}
    path = f"/api/scenes/{scene['id']}/revisions"
    first = post(client, path, save).json()
    again = post(client, path, save).json()
    assert first == again
    assert (first["number"], first["key"]) == (2, "attempt-1")
    assert Revision.objects.count() == 2
    post(client, path, save | {"key": "attempt-2"}, 409)


def test_what_takes_too_long_is_given_up_with_a_sentence_and_holds_up_nobody(client, scene, settings):
    settings.PICTURE_SECONDS = 0.3
    rng = np.random.default_rng(1)
    strokes = [
        {"points": np.column_stack([rng.random((400, 2)), np.ones(400)]).ravel().tolist(),
         "radius": 0.01, "soft": 0.5, "flow": 0.5}
        for _ in range(400)
    ]  # fmt: skip
    hand = {"kind": "hand", "params": {"strokes": strokes}}
    latch = {"id": "l", "name": "Hand", "read_at": scene["read_at"], "ingredients": [hand]}
    document = scene["revision"]["document"] | {"latches": [latch]}
    look = {"document": document, "latch": "l", "width": 900, "height": 600}
    said = post(client, f"/api/scenes/{scene['id']}/mask", look, 503).json()["detail"]
    assert "Took too long" in said
    settings.PICTURE_SECONDS = 20.0
    post(client, f"/api/scenes/{scene['id']}/picture", {"width": 90, "height": 60})


def test_a_save_that_the_disk_or_a_frame_refuses_is_tried_again_not_dropped(client, scene, monkeypatch):
    """422 says that the document is wrong, and lets the edit go: nothing else may."""
    from sunlatch.latch.sheets import LOOSE

    stroke = {"points": [0.3, 0.2, 1.0], "radius": 0.02, "soft": 0.3, "flow": 1.0}
    hand = {"kind": "hand", "params": {"strokes": [stroke] * LOOSE}}
    latch = {"id": "l", "name": "Hand", "read_at": scene["read_at"], "ingredients": [hand]}
    document = scene["revision"]["document"] | {"latches": [latch]}
    path, save = f"/api/scenes/{scene['id']}/revisions", {"base": 1, "document": document, "words": "x"}

    def full(*_):
        raise OSError(errno.ENOSPC, "No space left on device")

    with monkeypatch.context() as broken:
        broken.setattr("pathlib.Path.open", full)
        told = post(client, path, save, 503).json()
        assert "disk is full" in told["detail"]
    # a frame that cannot be opened just now keeps nothing from being saved
    monkeypatch.setattr(
        services.engine(), "develop", lambda *a, **k: _raise(FrameError("x cannot be opened"))
    )
    assert post(client, path, save).json()["number"] == 2


def _raise(error):
    raise error


def test_how_an_export_ended_is_written_once_the_disk_has_room(client, scene, monkeypatch):
    path, wanted = f"/api/scenes/{scene['id']}/exports", {"kind": "jpg", "bits": 8, "long_edge": 64}
    monkeypatch.setattr("studio.tasks.FIRST_PAUSE", 0.01)
    plain, refused = QuerySet.update, []

    def full(self, **fields):
        if {"done", "message"} & set(fields) and len(refused) < 6:
            refused.append(fields)
            raise OperationalError("database or disk is full")
        return plain(self, **fields)

    monkeypatch.setattr(QuerySet, "update", full)
    job = post(client, path, wanted).json()
    assert len(refused) == 6
    assert Job.objects.get(pk=job["id"]).state == Job.DONE


def test_ordinary_restarts_are_no_crashes_of_a_job(client, scene, ana, monkeypatch):
    """Told to stop in the midst of an export, again and again, it goes on at each start."""
    wanted = {"kind": "jpg", "space": "srgb", "bits": 8, "long_edge": 64}
    job = Job.objects.create(
        user=ana,
        scene_id=scene["id"],
        settings=wanted,
        document=scene["revision"]["document"],
        file_name="a.jpg",
    )
    plain = exporting.write_picture

    def stopped(*given, **more):
        tasks.stopping.set()
        tasks.put_back()
        raise RuntimeError("cannot schedule new futures after shutdown")

    for _ in range(TRIES + 1):
        monkeypatch.setattr(exporting, "write_picture", stopped)
        with pytest.raises(RuntimeError):
            tasks.run_export.call_local(job.id)
        job.refresh_from_db()
        assert (job.state, job.tries) == (Job.QUEUED, 0)
        tasks.stopping.clear()
    monkeypatch.setattr(exporting, "write_picture", plain)
    assert take_up_again() == 1
    job.refresh_from_db()
    assert job.state == Job.DONE


def test_a_release_of_the_camera_is_not_put_back(ana, outing):
    job = Job.objects.create(user=ana, outing_id=outing["id"], kind="shoot", settings={}, state=Job.RUNNING)
    tasks._under_way.add(job.id)
    tasks.put_back()
    tasks._under_way.clear()
    job.refresh_from_db()
    assert job.state == Job.RUNNING


def test_an_export_onto_a_full_disk_ends_with_a_sentence_and_the_next_is_made(client, scene, monkeypatch):
    def full(*_, **__):
        raise OSError(errno.ENOSPC, "No space left on device")

    path, wanted = f"/api/scenes/{scene['id']}/exports", {"kind": "jpg", "bits": 8, "long_edge": 64}
    with monkeypatch.context() as broken:
        broken.setattr("studio.exporting.write_picture", full)
        failed = Job.objects.get(pk=post(client, path, wanted).json()["id"])
    assert failed.state == Job.FAILED
    assert failed.message.startswith("The disk is full.")
    assert failed.message.endswith("No file was made.")
    assert Job.objects.get(pk=post(client, path, wanted).json()["id"]).state == Job.DONE
