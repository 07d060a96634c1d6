"""The coach's word on a clip: corrections and verdicts, each followed at once by everything that depends on it; and handing over."""

from __future__ import annotations

import threading
from collections.abc import Callable
from contextlib import suppress
from dataclasses import replace
from datetime import timedelta
from types import EllipsisType
from typing import Any

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.db.models import Count
from django.utils import timezone

from atleta import __version__
from atleta.analysis import EventPoint, Progress, Settings, judged_again, nothing_told
from atleta.analysis.findings import MOST_GOOD, good_points
from atleta.document import Document
from atleta.events import done_otherwise
from atleta.footage import ClipInfo, FootageError, as_voice, jpeg_of_frame
from atleta.motion import JointPoint
from atleta.motion.calibration import FULL_DISC_M
from atleta.tracking import PointCorrection
from atleta_site.quick import written as written_out
from atleta_site.refusals import Refused
from clips.derived import derive, write_whole
from clips.models import Clip
from jobs.apart import APART
from jobs.models import AnalysisJob
from jobs.services import FIRST, request_analysis, request_errand
from plans.shelf import library_of

from .filming import film_next
from .limits import thresholds_of, written
from .models import Analysis, HandOver, Mark, Note, Review, Verdict
from .own import own_faults_of, wordings_of
from .own import written as own_written
from .schools import catalogue_of, schools_of
from .series import better_than_usual, keep_numbers, load_kg, usual_speed

LINK_LIVES = timedelta(days=90)
MOST_POINTS, MOST_MARKS = 3, 200
# How long one may speak, and how often the picture may change meanwhile.
MOST_SPOKEN_S, MOST_SHOWN = 180.0, 20_000
POINTS_OF = {Mark.Shape.LINE: 2, Mark.Shape.ARROW: 2, Mark.Shape.CIRCLE: 2, Mark.Shape.ANGLE: 3}


# What a coach says is changed on the clip as it is kept, inside the transaction that keeps it.
Change = Callable[[Clip], None]
Usual = tuple[float, float] | None
# What of a change is not computed apart is done one after another: several at once would hold the database's lock while they wait for each
# other, and everybody else for them.
ONE_BY_ONE = threading.Lock()


def no_change(clip: Clip) -> None:
    """Nothing is said anew."""


class CannotReview(Refused):
    """What was asked does not fit the clip; the message says why."""


def settings_of(clip: Clip) -> Settings:
    """Everything people said about a clip, as the analysis takes it."""
    return _settings(clip, usual_speed(clip))


def _settings(clip: Clip, usual: Usual) -> Settings:
    verdicts = list(clip.verdicts.all())
    coach = clip.athlete.coach_id
    return Settings(
        lift=clip.lift,
        load_kg=load_kg(clip),
        stature_m=clip.athlete.stature_m,
        made=clip.made,
        facing=clip.facing or None,
        plumb_deg=clip.plumb_deg,
        disc_diameter_m=clip.disc_diameter_m or FULL_DISC_M,
        m_per_px=clip.m_per_px,
        capture_rate_hz=clip.capture_rate_hz,
        trim=tuple(clip.trim) if clip.trim else None,
        distrusted=tuple((first, last) for first, last in clip.distrusted),
        corrections=tuple(PointCorrection(p.frame, p.x_px, p.y_px) for p in clip.disc_points.all()),
        joint_points=tuple(JointPoint(p.frame, p.joint, p.x_px, p.y_px) for p in clip.joint_points.all()),
        thresholds=thresholds_of(clip.athlete),
        schools=schools_of(clip.athlete),
        own_faults=own_faults_of(coach),
        wordings=wordings_of(coach),
        usual_speed=usual,
        events=tuple(EventPoint(what.partition(":")[2], frame) for what, frame in clip.event_frames.items()),
        dismissed=frozenset((v.place, v.fault) for v in verdicts if v.decision == Verdict.Decision.DISMISSED),
        added=frozenset((v.place, v.fault) for v in verdicts if v.decision == Verdict.Decision.ADDED),
    )


def make_ready(clip: Clip, far: Progress = nothing_told) -> None:
    """The analysis of a clip that was just looked at. Where it offers what would be fitted from the start (another lift, another facing),
    that is worked out, too: the fit is kept, and a coach who takes the offer up need not wait for one. A cut goes on from what there is."""
    offers = [told["offer"] for told in rebuild(clip, far).document["warnings"] if "offer" in told and "trim" not in told["offer"]]
    said = settings_of(clip)
    for offer in offers:
        # What is out of bounds is refused in words when somebody takes it up, and is no reason to fail here.
        with suppress(ValueError):
            _derived(clip, replace(said, **offer), far)


def foresee(clip: Clip, far: Progress = nothing_told) -> None:
    """What a coach may yet set otherwise, though it was not offered: a lifter who faces the other way, the lift that the bar's way looks
    like, or one that is done otherwise. A fit of it takes longer than a coach likes to wait; from there to any other lift it is not far."""
    said, told = settings_of(clip), clip.analysis.document["clip"]
    if told["facing"]:
        _derived(clip, replace(said, facing="left" if told["facing"] == "right" else "right"), far)
    others = done_otherwise(said.lift)
    if told["recognised"] and told["recognised"]["kind"] != said.lift:
        others.insert(0, told["recognised"]["kind"])
    for lift in dict.fromkeys(others):
        _derived(clip, replace(said, lift=lift), far)


def _derived(clip: Clip, said: Settings, far: Progress = nothing_told) -> Document:
    told = (clip.tracks_file, ClipInfo(**clip.info), clip.sha256, said, clip.bodies_dir)
    # Who wants to hear how far it is computes here.
    return APART.do(derive, *told) if far is nothing_told else derive(*told, far)


def rebuild(clip: Clip, far: Progress = nothing_told) -> Analysis:
    """Derive the analysis again from raw tracks and the coach's word; the video is not touched."""
    return _settled(clip, lambda now, said: _derived(now, said, far))


def judge_anew(clip: Clip, change: Change = no_change) -> Analysis:
    """The analysis by the coach's verdicts, limits, preferences and words as they stand after a change: what was measured stands as it
    is."""
    if clip.analysis.judged_by.get("version") != __version__:
        return follow(clip, change)
    held = clip.analysis.judged_by.get("usual_speed")
    return _settled(clip, lambda now, said: APART.do(judged_again, now.analysis.document, said), change, tuple(held) if held else None)


def follow(clip: Clip, change: Change = no_change) -> Analysis:
    """A change of the coach's word and what follows from it: at once from the tracks; or, where the pictures must be looked at for it (a
    box about the lifter, an analysis by an earlier version), when the worker has done that. Until then the analysis stands as it was."""
    with ONE_BY_ONE:
        now, _ = _rehearsed(clip, change)
    if now.tracks_file.exists():
        return _settled(clip, _derived, change)
    with transaction.atomic():
        now = _as_kept(clip)
        change(now)
        request_analysis(now)
    return now.analysis


def _settled(
    clip: Clip, work: Callable[[Clip, Settings], Document], change: Change = no_change, usual: Usual | EllipsisType = ...
) -> Analysis:
    """Keep a change with the analysis that follows from it, both or neither. That is worked out while others go on; what somebody else said
    of the clip meanwhile is not lost: then it is worked out again with that. Where the usual speed is given, nothing is measured anew."""
    while True:
        with ONE_BY_ONE:
            now, said = _rehearsed(clip, change)
            speed = usual_speed(now) if isinstance(usual, EllipsisType) else usual
            said = replace(said, usual_speed=speed)
            before = _revision(now)
        document = work(now, said)
        with ONE_BY_ONE:
            # Nothing is made of it inside the database's lock that could be made outside.
            stands: dict[str, Any] = {"document": written_out(document).decode()}
            if isinstance(usual, EllipsisType):
                stands["better"] = better_than_usual(now, document)
            with transaction.atomic():
                now = _as_kept(clip)
                change(now)
                if _settings(now, speed) == said and _revision(now) == before:
                    if isinstance(usual, EllipsisType):
                        keep_numbers(now, document)
                    stands |= {"judged_by": judged_by(now, speed), "revision": before + 1, "made_at": timezone.now()}
                    if not Analysis.objects.filter(clip=now).update(**stands):
                        Analysis.objects.create(clip=now, **stands)
                    clip.analysis = Analysis.objects.defer("document").get(clip=now)
                    clip.analysis.document = document
                    return clip.analysis
                transaction.set_rollback(True)


def _rehearsed(clip: Clip, change: Change) -> tuple[Clip, Settings]:
    """The clip, and all that is said of it, as they would stand after a change, which is not kept; its usual speed is left out."""
    with transaction.atomic():
        now = _as_kept(clip)
        change(now)
        said = _settings(now, None)
        if change is not no_change:
            transaction.set_rollback(True)
    return now, said


def _as_kept(clip: Clip) -> Clip:
    return Clip.objects.select_related("athlete__coach", "analysis").defer("analysis__document").get(pk=clip.pk)


def _revision(clip: Clip) -> int:
    return clip.analysis.revision if hasattr(clip, "analysis") else 0


def judged_by(clip: Clip, usual: Usual) -> dict[str, Any]:
    """All that a clip is judged by besides what was said of it."""
    return {
        "version": __version__, "usual_speed": list(usual) if usual else None, "stature_m": clip.athlete.stature_m,
        "limits": written(clip.athlete), "schools": schools_of(clip.athlete), "own": own_written(clip.athlete.coach_id),
    }  # fmt: skip


def outdated(clip: Clip) -> bool:
    """Whether a clip was judged by something else than what stands now, and is not being looked at anew."""
    stands, held = judged_by(clip, usual_speed(clip)), clip.analysis.judged_by
    if held == stands:
        return False
    # Asking once more for what is under way would begin it from the start.
    return _measured_alike(held, stands) or clip.tracks_file.exists() or clip.job.state == AnalysisJob.State.DONE


def up_to_date(clip: Clip) -> Analysis:
    """The clip's analysis, judged by the limits and preferences that stand now; while its tracks are being made anew, as it was before."""
    if not outdated(clip):
        return clip.analysis
    held = clip.analysis.judged_by
    return judge_anew(clip) if _measured_alike(held, judged_by(clip, usual_speed(clip))) else follow(clip)


def _measured_alike(held: dict[str, Any], stands: dict[str, Any]) -> bool:
    """Whether what differs leaves alone what was measured."""
    return all(held.get(name) == stands[name] for name in ("version", "usual_speed", "stature_m"))


def agreement(coach: AbstractBaseUser) -> dict[str, dict[str, int]]:
    """How often a coach confirmed, dismissed and added each fault, over all clips: by fault and decision."""
    rows = Verdict.objects.filter(clip__athlete__coach=coach).order_by().values("fault", "decision").annotate(times=Count("pk"))
    told: dict[str, dict[str, int]] = {}
    for row in rows:
        told.setdefault(row["fault"], dict.fromkeys(Verdict.Decision.values, 0))[row["decision"]] = row["times"]
    return told


def good_in(clip: Clip) -> list[str]:
    """What deserves to be said first, lift by lift and each once, at most two: faults whose absence the athlete worked for, had wrong
    before, or does better than usual. What is plain in one lift and not fine in another is none."""
    earlier = Verdict.objects.filter(clip__athlete=clip.athlete, clip__added_at__lt=clip.added_at).exclude(decision="dismissed")
    matters = set(earlier.values_list("fault", flat=True)) | set(clip.athlete.blocks.values_list("fault", flat=True))
    lifts, better = clip.analysis.document["lifts"], clip.analysis.better
    amiss = {row["fault"] for lift in lifts for row in lift["findings"] if row["level"] in ("watch", "fault", "seen")}
    plain: dict[str, None] = {}
    for place, lift in enumerate(lifts):
        usual = better.get(str(place))
        plain |= dict.fromkeys(good_points(lift["findings"], matters, better=usual or (), known=usual is not None))
    return [fault for fault in plain if fault not in amiss][:MOST_GOOD]


class WrittenMeanwhile(CannotReview):
    """The review was written elsewhere since whoever writes looked at it; they see it, and choose."""

    status = 409

    def __init__(self, review: Review) -> None:
        super().__init__("This review was written elsewhere since you looked at it. See what it is now, and choose.")
        self.review = review

    @property
    def told(self) -> dict[str, Any]:
        return {
            "theirs": {"good": self.review.good, "words": self.review.words, "written_at": written_at(self.review)},
        }


def written_at(review: Review | None) -> str:
    """When a review was written last; empty before that."""
    return review.updated_at.isoformat() if review is not None and review.pk else ""


@transaction.atomic
def write_review(clip: Clip, said: dict[str, Any], seen: str | None = None) -> Review:
    """Change what will be said.

    Args:
        seen: when it had been written last as whoever writes looked at it; None where they do not say.

    Raises:
        WrittenMeanwhile: it was written since.
    """
    review = Review.objects.filter(clip=clip).first()
    if review is not None and seen is not None and seen != written_at(review):
        raise WrittenMeanwhile(review)
    review = review or Review(clip=clip)
    for name, value in said.items():
        setattr(review, name, value)
    review.save()
    return review


# -- handing over -------------------------------------------------------------------------------------------------------


def compose(clip: Clip) -> dict[str, Any]:
    """The review as the athlete will read it, from the confirmed findings, the coach's words and the work set."""
    document = clip.analysis.document
    review = Review.objects.filter(clip=clip).first() or Review(clip=clip)
    points = _standing(clip, document)
    points.sort(key=lambda point: (point[0]["fault"] != review.first_priority, not point[0]["root"]))
    catalogue = catalogue_of(clip.athlete).faults
    good = [catalogue[fault].good for fault in good_in(clip) if fault in catalogue]
    marks = marks_of(clip)
    told = [_point(row, verdict, places, document, marks, review) for row, verdict, places in points[:MOST_POINTS]]
    return {
        "athlete": clip.athlete.name,
        "lift": clip.lift,
        "load": clip.load,
        "load_unit": clip.load_unit,
        "made": clip.made,
        "filmed_on": clip.filmed_on.isoformat() if clip.filmed_on else None,
        "good": ([line.strip() for line in review.good.splitlines() if line.strip()] or good)[:MOST_POINTS],
        "points": told,
        "words": review.words,
        "notes": _moments(clip, document, {point["frame"] for point in told}, marks),
        "tasks": [_task(assignment) for assignment in clip.assignments.all()],
        "film_next": film_next(clip),
    }


def publish(clip: Clip) -> HandOver:
    """Hand the review over: a copy of it as it is now, with its picture, behind a new private link. Earlier links are withdrawn.

    Raises:
        CannotReview: there is nothing to say yet.
    """
    content = compose(clip)
    if not any((content["good"], content["points"], content["words"].strip(), content["notes"], content["tasks"])):
        raise CannotReview("There is nothing to hand over yet: confirm a finding, write a sentence or set a drill.")
    frames = [point["frame"] for point in content["points"]]
    pictures = {place: jpeg_of_frame(clip.footage, frame) for place, frame in enumerate(frames) if frame is not None}
    moments = {frame: jpeg_of_frame(clip.footage, frame) for frame in {one["frame"] for one in content["notes"]}}
    voices = {note.pk: note.voice_file.read_bytes() for note in clip.notes.filter(seconds__isnull=False) if note.voice_file.exists()}
    earlier = list(clip.hand_overs.filter(withdrawn_at__isnull=True))
    with transaction.atomic():
        clip.hand_overs.filter(pk__in=[row.pk for row in earlier]).update(withdrawn_at=timezone.now())
        handed = HandOver.objects.create(clip=clip, content=content, expires_at=timezone.now() + LINK_LIVES)
        handed.picture(0).parent.mkdir(parents=True, exist_ok=True)
        for place, picture in pictures.items():
            write_whole(handed.picture(place), picture)
        for frame, picture in moments.items():
            write_whole(handed.moment(frame), picture)
        for note, voice in voices.items():
            write_whole(handed.voice_file(note), voice)
        if voices:
            request_errand("film_spoken", handed.pk, FIRST)
    for file in (file for row in earlier for file in row.files()):
        file.unlink(missing_ok=True)
    return handed


def film_missing() -> None:
    """Ask for the films of spoken notes that are not there and nobody was asked for, as after an update."""
    for handed in HandOver.objects.filter(
        withdrawn_at__isnull=True, expires_at__gt=timezone.now(), clip__notes__seconds__isnull=False
    ).distinct():
        spoken = [one["voice"] for one in handed.content["notes"] if one.get("voice")]
        if any(handed.voice_file(note).exists() and not handed.film(note).exists() for note in spoken):
            request_errand("film_spoken", handed.pk, FIRST)


def with_films(content: dict[str, Any], there: Callable[[int], bool]) -> dict[str, Any]:
    """A review as it is read, saying of every spoken note whether what was shown meanwhile can be seen."""
    notes = [one | {"film": bool(one.get("voice")) and there(one["voice"])} for one in content.get("notes", [])]
    return {**content, "notes": notes}


def time_at(document: dict[str, Any], frame: int) -> float:
    """When a frame of the clip is, s; of one beyond its end, when the last is."""
    times = document["clip"]["frame_time_s"]
    return float(times[min(frame, len(times) - 1)]) if times else 0.0


def note(clip: Clip, frame: int, words: str, by: AbstractBaseUser) -> Note:
    """Keep the coach's words at a frame.

    Raises:
        CannotReview: the clip has no such frame.
    """
    frames = clip.analysis.document["clip"]["frame_count"]
    if not 0 <= frame < frames:
        raise CannotReview(f"The clip has frames 0 to {frames - 1}.")
    return Note.objects.create(clip=clip, frame=frame, words=words, by=by)


def say(clip: Clip, frame: int, recording: bytes, shown: Any, looked: list[dict[str, Any]], by: AbstractBaseUser) -> Note:
    """Keep what the coach said, at the frame where it begins, with what stood on the stage meanwhile and how it was looked at.

    Raises:
        CannotReview: the clip has no such frame, or the recording cannot be heard.
    """
    frames = clip.analysis.document["clip"]["frame_count"]
    if not 0 <= frame < frames:
        raise CannotReview(f"The clip has frames 0 to {frames - 1}.")
    if not _is_trail(shown, frames):
        raise CannotReview("What was shown meanwhile is a list of times and frames of the clip, in order.")
    try:
        voice, seconds = as_voice(recording, MOST_SPOKEN_S)
    except FootageError as error:
        raise CannotReview(error.message) from error
    with transaction.atomic():
        row = Note.objects.create(clip=clip, frame=frame, by=by, seconds=round(seconds, 2), shown=shown or [[0.0, frame]], looked=looked)
        row.voice_file.parent.mkdir(parents=True, exist_ok=True)
        write_whole(row.voice_file, voice)
    return row


def _is_trail(shown: Any, frames: int) -> bool:
    def number(value: Any) -> bool:
        return isinstance(value, int | float) and not isinstance(value, bool)

    if not isinstance(shown, list) or len(shown) > MOST_SHOWN:
        return False
    pairs = all(isinstance(row, list) and len(row) == 2 and number(row[0]) and isinstance(row[1], int) for row in shown)
    if not pairs or not all(0 <= frame < frames for _, frame in shown):
        return False
    times = [time for time, _ in shown]
    return times == sorted(times) and all(time >= 0 for time in times)


def unsay(clip: Clip, note: int) -> None:
    """Take a note back, with what was said."""
    for row in clip.notes.filter(pk=note):
        voice = row.voice_file
        row.delete()
        voice.unlink(missing_ok=True)


def mark(clip: Clip, drawn: dict[str, Any], by: AbstractBaseUser) -> Mark:
    """Keep what the coach drew at a frame.

    Raises:
        CannotReview: the clip has no such frame, the shape has other points, or they lie outside the picture.
    """
    told = clip.analysis.document["clip"]
    if not 0 <= drawn["frame"] < told["frame_count"]:
        raise CannotReview(f"The clip has frames 0 to {told['frame_count'] - 1}.")
    wanted = POINTS_OF.get(drawn["shape"])
    if wanted and len(drawn["points"]) != wanted:
        raise CannotReview(f"This shape is drawn with {wanted} points; there are {len(drawn['points'])}.")
    if not all(0 <= x <= told["width"] and 0 <= y <= told["height"] for x, y in drawn["points"]):
        raise CannotReview("A mark must lie inside the picture.")
    if clip.marks.count() >= MOST_MARKS:
        raise CannotReview(f"A clip holds up to {MOST_MARKS} marks: take some away first.")
    return Mark.objects.create(clip=clip, by=by, **drawn)


def withdraw(clip: Clip) -> None:
    """Nobody reads the clip's reviews any more; their pictures and voices go."""
    standing = list(clip.hand_overs.filter(withdrawn_at__isnull=True))
    clip.hand_overs.filter(pk__in=[row.pk for row in standing]).update(withdrawn_at=timezone.now())
    for file in (file for row in standing for file in row.files()):
        file.unlink(missing_ok=True)


def find_link(token: str) -> HandOver | None:
    """The hand-over behind a private link; None when the link is unknown, withdrawn or has run out."""
    handed = HandOver.objects.filter(token=token).first()
    return handed if handed is not None and handed.open else None


def open_link(token: str) -> HandOver | None:
    """The hand-over behind a private link, noting that it was opened; None as `find_link`."""
    handed = find_link(token)
    if handed is None:
        return None
    handed.opened_at = handed.opened_at or timezone.now()
    handed.opened_count += 1
    handed.save(update_fields=["opened_at", "opened_count"])
    return handed


def _standing(clip: Clip, document: dict[str, Any]) -> list[tuple[dict[str, Any], Verdict, list[int]]]:
    """What is said to an athlete, which is what the coach confirmed or added and nothing else: every fault once, as it was in the first
    lift that it stands on, with all of those lifts."""
    verdicts = {(v.place, v.fault): v for v in clip.verdicts.exclude(decision=Verdict.Decision.DISMISSED)}
    standing: dict[str, tuple[dict[str, Any], Verdict, list[int]]] = {}
    for place, lift in enumerate(document["lifts"]):
        for row in lift["findings"]:
            if (verdict := verdicts.get((place, row["fault"]))) is not None:
                standing.setdefault(row["fault"], (row, verdict, []))[2].append(place)
    return list(standing.values())


def marks_of(clip: Clip) -> dict[int, list[Mark]]:
    """What the coach drew, by frame."""
    drawn: dict[int, list[Mark]] = {}
    for mark in clip.marks.all():
        drawn.setdefault(mark.frame, []).append(mark)
    return drawn


def lift_at(document: dict[str, Any], frame: int) -> dict[str, Any] | None:
    """The lift that a frame belongs to; None between lifts."""
    return next((lift for lift in document["lifts"] if lift["start_frame"] <= frame <= lift["end_frame"]), None)


def _moments(clip: Clip, document: dict[str, Any], told: set[int], marks: dict[int, list[Mark]]) -> list[dict[str, Any]]:
    """What the coach wrote and said, and what was drawn at frames of which nothing is told otherwise, by time."""
    last = document["clip"]["frame_count"] - 1
    notes = [(min(note.frame, last), note.words, note.pk if note.seconds else None) for note in clip.notes.all()]
    drawn = [(frame, "", None) for frame in marks if frame not in told and frame not in {row[0] for row in notes}]
    return [
        {
            "time_s": time_at(document, frame), "words": words, "voice": voice, "frame": frame,
            "drawing": _drawing(document, frame, marks) | {"line": []},
        }
        for frame, words, voice in sorted(notes + drawn, key=lambda row: row[0])
    ]  # fmt: skip


def _point(
    row: dict[str, Any], verdict: Verdict, places: list[int], document: dict[str, Any], marks: dict[int, list[Mark]], review: Review
) -> dict[str, Any]:
    """A fault as the athlete reads it: what to feel and do, in this review's own words where it has some."""
    evidence = row["evidence"][0] if row["evidence"] else None
    frame = verdict.frame if verdict.frame is not None else evidence["frame"] if evidence else None
    own = review.wordings.get(row["fault"], {})
    says = verdict.note or own.get("athlete") or row["athlete"]
    if len(places) > 1:
        says = f"{says} So in {len(places)} of {len(document['lifts'])} lifts of this clip.".strip()
    return {
        "fault": row["fault"],
        "name": row["name"],
        "says": says,
        "why": row["why"],
        "cue": own.get("cue") or row["cue"],
        "frame": frame,
        "drawing": _drawing(document, frame, marks) | {"line": _line(evidence, frame)} if frame is not None else None,
    }


def _line(evidence: dict[str, Any] | None, frame: int) -> list[list[float]]:
    """What a finding rests on first, as it shows in its frame."""
    shows = evidence is not None and evidence["frame"] == frame and evidence["value"] is not None
    return evidence.get("lines", []) if evidence and shows else []


def _drawing(document: dict[str, Any], frame: int, marks: dict[int, list[Mark]]) -> dict[str, Any]:
    """What is drawn over the picture: the bar's path up to the frame, the plumb line through its start, the bar now, the coach's marks; and
    where the lifter is. Pixels."""
    lift = lift_at(document, frame)
    disc = document["disc"]
    start = lift["events"].get("lift_off", {"frame": lift["start_frame"]})["frame"] if lift else frame
    span = range(start, frame + 1)
    path = [[disc["x_px"][i], disc["y_px"][i]] for i in span if disc["x_px"][i] is not None]
    joints = [(track["x_px"][frame], track["y_px"][frame]) for track in document["joints"].values()]
    return {
        "width": document["clip"]["width"],
        "height": document["clip"]["height"],
        "path": path,
        "plumb_x": disc["x_px"][start],
        "bar": [disc["x_px"][frame], disc["y_px"][frame]] if disc["x_px"][frame] is not None else None,
        "radius": disc["radius_px"][frame] or disc["radius_px"][start],
        "lifter": [[x, y] for x, y in joints if x is not None],
        "marks": [{"shape": mark.shape, "points": mark.points, "ink": mark.ink} for mark in marks.get(frame, [])],
    }


def _task(assignment: Any) -> dict[str, Any]:
    exercise = library_of(assignment.clip.athlete.coach_id)[assignment.exercise]
    return {
        "name": exercise.named(assignment.lift),
        "how": exercise.how,
        "cue": exercise.cue,
        "cautions": list(exercise.cautions),
        "safeties": exercise.safeties,
        "film": exercise.film,
        "pause_s": exercise.pause_s,
        "rest_s": exercise.rest_s,
        "sets": assignment.sets,
        "reps": assignment.reps,
        "percent": assignment.percent,
        "basis": assignment.basis,
        "per_week": assignment.per_week,
        "weeks": assignment.weeks,
        "unit": assignment.unit,
        "total": assignment.total,
        "per_side": assignment.per_side,
        "load": exercise.load,
        "note": assignment.note,
    }
