"""The application attacked while it runs, as a stranger or an accident would: `make bench-attack`. Every row says what was tried and what
came of it; the same with smaller numbers stands among the tests."""

from __future__ import annotations

import argparse
import hashlib
import http.client
import json
import os
import random
import re
import signal
import socket
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import ExitStack, closing, contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from uuid import uuid4

import yaml
from bench.clips import looped
from bench.tables import table
from demo.site import MANAGE

PROJECT = Path(__file__).parents[1]
CLIP = PROJECT / "demo" / "clips" / "ida-snatch-76.mp4"
NAME, PASSWORD = "maren", "saltmarsh-lane"
SET_UP = f"""
from django.contrib.auth.models import User
from people.models import Athlete
coach = User.objects.create_user("{NAME}", password="{PASSWORD}")
Athlete.objects.create(coach=coach, name="Ida Fenn", stature_m=1.6)
"""
WHOLE = """
from django.db import connection
with connection.cursor() as asked:
    asked.execute("pragma integrity_check")
    print(asked.fetchone()[0])
"""
BACK_WITHIN_S, SOON_S = 60.0, 2.0
# Of a clip's own length.
MOST_OF_LENGTH = 1.5
ODD: list[Any] = [
    None, True, -1, 0, 1e308, 2**70, "", " ", "x" * 70_000, "\x00", "\ud800", "../../etc/passwd", "=1+1", "NaN", "٣", "1e400", "9999-12-31",
    "0001-01-01", [], [[[[]]]], {}, {"a": {"b": 1}}, [1, "a", None], "<script>alert(1)</script>", {"$ne": 1}, [[1, 2], [3]],
]  # fmt: skip


@dataclass(frozen=True)
class Outcome:
    """What was tried how often, what came of it, and whether that is as it should be."""

    tried: str
    times: int
    came: str
    sound: bool


class Browser:
    """Somebody's browser: it keeps its cookies, and asks again when the connection breaks."""

    def __init__(self, port: int) -> None:
        self.port = port
        self.cookies: dict[str, str] = {}

    def ask(
        self, path: str, method: str = "GET", body: Any = None, *, patient: bool = True, timeout: float = 60, **heads: str
    ) -> tuple[int, bytes]:
        """Status and answer; (0, b"") where none came."""
        content = body if isinstance(body, bytes) else None if body is None else json.dumps(body).encode()
        head = {"Content-Type": "application/json", "X-CSRFToken": self.cookies.get("csrftoken", "")} | heads
        deadline = time.monotonic() + (BACK_WITHIN_S if patient else 0)
        while True:
            try:
                with closing(http.client.HTTPConnection("127.0.0.1", self.port, timeout=timeout)) as line:
                    line.request(method, path, content, head | {"Cookie": "; ".join(f"{a}={b}" for a, b in self.cookies.items())})
                    answer = line.getresponse()
                    told = answer.read()
                for cookie in answer.headers.get_all("Set-Cookie") or ():
                    name, _, rest = cookie.partition("=")
                    self.cookies[name] = rest.partition(";")[0]
                return answer.status, told
            except (OSError, http.client.HTTPException):
                if time.monotonic() > deadline:
                    return 0, b""
                time.sleep(0.2)

    def signed_in(self) -> Browser:
        self.ask("/api/session")
        status, told = self.ask("/api/session", "POST", {"username": NAME, "password": PASSWORD})
        if status != 200:
            raise RuntimeError(f"Signing in was answered {status}: {told[:200]!r}")
        return self

    def upload(self, content: bytes, name: str = "a.mp4", *, patient: bool = True) -> tuple[int, bytes]:
        edge = uuid4().hex
        facts = {"athlete": "1", "lift": "snatch", "load": "76"}
        parts = [f'--{edge}\r\nContent-Disposition: form-data; name="{key}"\r\n\r\n{value}\r\n'.encode() for key, value in facts.items()]
        parts.append(f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\n\r\n'.encode() + content + b"\r\n")
        head = {"Content-Type": f"multipart/form-data; boundary={edge}", "Idempotency-Key": str(uuid4())}
        return self.ask("/api/clips", "POST", b"".join(parts) + f"--{edge}--\r\n".encode(), patient=patient, **head)


class Site:
    """The application as `make start` starts it, on a place of its own."""

    def __init__(self, var: Path) -> None:
        with closing(socket.socket()) as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        self.cookies: dict[str, str] = {}
        self.var, self.around = var, {**os.environ, "ATLETA_VAR": str(var), "ATLETA_WORKERS": "1"}

    def manage(self, *words: str) -> str:
        return subprocess.run([*MANAGE, *words], env=self.around, check=True, stdout=subprocess.PIPE, text=True).stdout

    def browser(self) -> Browser:
        """A browser of the coach's; it is signed in only once, as signing in is slowed down."""
        if not self.cookies:
            self.cookies = Browser(self.port).signed_in().cookies
        browser = Browser(self.port)
        browser.cookies = dict(self.cookies)
        return browser

    def processes(self, which: str) -> list[int]:
        """The processes of this place that run a command, by the words that it was started with."""
        found = []
        for entry in Path("/proc").iterdir():
            with suppress(OSError, ValueError):
                words = (entry / "cmdline").read_bytes().replace(b"\0", b" ").decode()
                if f"manage.py {which}" in words and f"ATLETA_VAR={self.var}".encode() in (entry / "environ").read_bytes():
                    found.append(int(entry.name))
        return found

    def originals(self) -> set[str]:
        return {file.name for file in (self.var / "media" / "originals").rglob("*") if file.is_file()}


@contextmanager
def running(var: Path) -> Iterator[Site]:
    site = Site(var)
    site.manage("migrate", "--verbosity", "0")
    site.manage("shell", "-v", "0", "-c", SET_UP)
    with (var / "said").open("wb") as said:
        up = subprocess.Popen([*MANAGE, "up", "--port", str(site.port)], env=site.around, stdout=said, stderr=said)
        try:
            if not Browser(site.port).ask("/api/session")[0]:
                raise RuntimeError("The application did not start.")
            yield site
        finally:
            up.send_signal(signal.SIGTERM)
            with suppress(subprocess.TimeoutExpired):
                up.wait(30)
            up.kill()


def measured(site: Site, browser: Browser, content: bytes, within_s: float) -> str:
    """A measured clip: its id."""
    status, told = browser.upload(content)
    if status != 201:
        raise RuntimeError(f"A clip was answered {status}: {told[:200]!r}")
    clip, deadline = json.loads(told)["id"], time.monotonic() + within_s
    while not (seen := json.loads(browser.ask(f"/api/clips/{clip}")[1]))["measured"]:
        if time.monotonic() > deadline or seen["job"]["state"] == "failed":
            raise RuntimeError(f"The clip was not measured: {seen['job']}")
        time.sleep(0.5)
    return str(clip)


def many_lifts(site: Site, _: str, times: int) -> Outcome:
    """A clip of many lifts comes in: how long after that it is measured, as a share of its length."""
    browser, long = site.browser(), looped(CLIP, site.var / "long.mp4", times)
    began = time.monotonic()
    clip = measured(site, browser, long.read_bytes(), 3000)
    took_s = time.monotonic() - began
    document = json.loads(browser.ask(f"/api/clips/{clip}/bench")[1])["document"]
    browser.ask(f"/api/clips/{clip}", "DELETE")
    length_s = document["clip"]["duration_s"]
    came = f"{len(document['lifts'])} measured, {took_s / length_s:.2f} of its {length_s:.0f} s later"
    return Outcome("A clip of many lifts", times, came, len(document["lifts"]) == times and took_s < MOST_OF_LENGTH * length_s)


def kills(site: Site, clip: str, times: int) -> Outcome:
    """Web server, workers and what computes are killed at random while notes and clips come in."""
    browser, chance = site.browser(), random.Random(1)
    said, clips, killed = list[str](), list[str](), list[int]()
    for place in range(times):
        browser.ask("/api/session")
        late = threading.Timer(chance.uniform(0, 0.4), kill_one, [site, chance, killed])
        late.start()
        for turn in range(3):
            words = f"{place}-{turn}"
            status, _ = browser.ask(f"/api/clips/{clip}/notes", "POST", {"frame": 1, "words": words}, patient=False)
            if status == 201:
                said.append(words)
        if place % 5 == 0:
            status, told = browser.upload(CLIP.read_bytes() + place.to_bytes(4, "big"), patient=False)
            if status == 201:
                clips.append(json.loads(told)["id"])
        late.join()
    kept = {row["words"] for row in json.loads(browser.ask(f"/api/clips/{clip}/notes")[1])}
    lost = [one for one in said if one not in kept]
    lost += [one for one in clips if browser.ask(f"/api/clips/{one}")[0] != 200]
    whole = site.manage("shell", "-v", "0", "-c", WHOLE).split()[-1]
    for one in clips:
        browser.ask(f"/api/clips/{one}", "DELETE")
    return Outcome(
        "Processes killed while notes and clips come in", len(killed),
        f"{len(said) + len(clips)} acknowledged, {len(lost)} lost, database {whole}",
        not lost and whole == "ok" and bool(said) and bool(killed),
    )  # fmt: skip


def kill_one(site: Site, chance: random.Random, killed: list[int]) -> None:
    there = site.processes("serve") + site.processes("work") + site.processes("work_off")
    if there:
        with suppress(ProcessLookupError):
            killed.append(chance.choice(there))
            os.kill(killed[-1], signal.SIGKILL)


def hung_worker(site: Site, _: str, times: int) -> Outcome:
    """A worker is stopped in the middle of its work."""
    browser, longest, stopped = site.browser(), 0.0, 0
    for place in range(times):
        deadline = time.monotonic() + BACK_WITHIN_S
        while not (workers := site.processes("work_off")) and time.monotonic() < deadline:
            time.sleep(0.2)
        _, told = browser.upload(CLIP.read_bytes() + b"hung" + place.to_bytes(4, "big"))
        clip = json.loads(told)["id"]
        time.sleep(1.0)
        for worker in workers:
            with suppress(ProcessLookupError):
                os.kill(worker, signal.SIGSTOP)
                stopped += 1
        began = time.monotonic()
        while not json.loads(browser.ask(f"/api/clips/{clip}")[1])["measured"] and time.monotonic() < began + 300:
            time.sleep(0.5)
        longest = max(longest, time.monotonic() - began)
        browser.ask(f"/api/clips/{clip}", "DELETE")
    came = f"measured {longest:.0f} s later at the latest"
    return Outcome("Workers stopped (SIGSTOP) at work", stopped, came, longest < 300 and bool(stopped))


def same_file_at_once(site: Site, _: str, times: int) -> Outcome:
    """One file sent six times at once, and deleted while it is sent again."""
    browser, without, refused = site.browser(), 0, 0
    for place in range(times):
        content, told = CLIP.read_bytes() + b"same" + place.to_bytes(4, "big"), list[tuple[int, bytes]]()

        def send(content: bytes = content, told: list[tuple[int, bytes]] = told) -> None:
            told.append(browser.upload(content))

        def delete(told: list[tuple[int, bytes]] = told) -> None:
            for _ in range(200):
                if told and told[0][0] == 201:
                    browser.ask(f"/api/clips/{json.loads(told[0][1])['id']}", "DELETE")
                    return
                time.sleep(0.01)

        work = [threading.Thread(target=send) for _ in range(6)] + [threading.Thread(target=delete)]
        for one in work:
            one.start()
        for one in work:
            one.join()
        refused += sum(status != 201 for status, _ in told)
        made = [json.loads(answer)["id"] for status, answer in told if status == 201]
        there = [one for one in made if browser.ask(f"/api/clips/{one}")[0] == 200]
        if there and not any(name.startswith(hashlib.sha256(content).hexdigest()) for name in site.originals()):
            without += len(there)
        for one in there:
            browser.ask(f"/api/clips/{one}", "DELETE")
    left = [name for name in site.originals() if ".part" in name]
    return Outcome(
        "One file sent six times at once, and deleted meanwhile", times,
        f"{refused} refused, {without} acknowledged without a file, {len(left)} half files left", not refused and not without and not left,
    )  # fmt: skip


def two_tabs(site: Site, clip: str, times: int) -> Outcome:
    """Positions set from two browsers at once: what was acknowledged stands."""
    events = json.loads(site.browser().ask(f"/api/clips/{clip}/bench")[1])["document"]["lifts"][0]["events"]
    names, acknowledged = [name for name in ("lift_off", "past_knee", "peak_speed", "apex") if name in events], list[tuple[str, int]]()

    def correct(tab: int) -> None:
        browser = site.browser()
        for turn in range(times):
            name = names[(2 * turn + tab) % len(names)]
            frame = events[name]["frame"] + turn % 2
            status, _ = browser.ask(f"/api/clips/{clip}/events/0/{name}", "PUT", {"frame": frame})
            if status == 200:
                acknowledged.append((name, frame))

    tabs = [threading.Thread(target=correct, args=(tab,)) for tab in range(2)]
    for one in tabs:
        one.start()
    for one in tabs:
        one.join()
    told = json.loads(site.browser().ask(f"/api/clips/{clip}/bench")[1])
    written = [(row["what"].rpartition(":")[2], row["after"]) for row in told["corrections"] if row["what"].startswith("event:0:")]
    lost = [one for one in acknowledged if one not in written]
    stands = all(told["document"]["lifts"][0]["events"][name]["frame"] == dict(written)[name] for name, _ in acknowledged)
    return Outcome("Positions set in two tabs at once", len(acknowledged), f"{len(lost)} lost", not lost and stands and bool(acknowledged))


def held_open(site: Site, _: str, times: int) -> Outcome:
    """Heads and bodies that are begun and not ended."""
    browser, longest = site.browser(), 0.0
    with ExitStack() as held:
        for place in range(times):
            line = held.enter_context(closing(socket.create_connection(("127.0.0.1", site.port), timeout=30)))
            head = "POST /api/session HTTP/1.1\r\nHost: localhost\r\n"
            line.sendall((head if place % 2 else f"{head}Content-Length: 5000\r\n\r\nsome of it").encode())
        for _ in range(10):
            began = time.monotonic()
            status, _ = browser.ask("/api/clips")
            longest = max(longest, time.monotonic() - began) if status == 200 else 99.0
    return Outcome("Requests begun and not ended", times, f"others answered within {longest:.1f} s", longest < SOON_S)


def forged_addresses(site: Site, _: str, times: int) -> Outcome:
    """Wrong passwords, each from an address that the sender makes up."""
    browser, tried = Browser(site.port), 0
    browser.ask("/api/session")
    for place in range(times):
        said = {"username": "nobody", "password": f"guess-{place}"}
        status, _ = browser.ask("/api/session", "POST", said, **{"X-Forwarded-For": f"10.0.{place // 250}.{place % 250}"})
        tried += status == 400
    return Outcome("Wrong passwords under made-up addresses", times, f"{tried} tried", tried <= 20)


def odd_bodies(site: Site, clip: str, times: int) -> Outcome:
    """Bodies made from the API's document, with odd values in every field."""
    document, chance, browser = yaml.safe_load((PROJECT / "docs" / "openapi.yaml").read_text("utf-8")), random.Random(1), site.browser()
    ids = {"clips": clip, "athletes": "1"}
    operations = [
        (path, method, operation) for path, methods in document["paths"].items() for method, operation in methods.items()
        if method in ("post", "put", "patch") and path not in ("/api/session", "/api/password", "/api/coaches", "/api/clips/{id}/stop")
    ]  # fmt: skip
    broken: list[str] = []
    for place in range(times):
        path, method, operation = operations[place % len(operations)]
        schema = operation.get("requestBody", {}).get("content", {}).get("application/json", {}).get("schema", {})
        fields = document["components"]["schemas"].get(schema.get("$ref", "").rpartition("/")[2], {}).get("properties", {})
        at = re.sub(
            r"(\w+)/\{\w+\}", lambda found: f"{found[1]}/{ids.get(found[1], chance.choice(['0', '1', 'contact', 'bar_looped']))}", path
        )
        body = {name: chance.choice(ODD) for name in fields if chance.random() < 0.8}
        status, told = browser.ask(at, method.upper(), body)
        if status == 0 or status >= 500 or (status >= 400 and not re.search(rb"[a-z]{2}", told)):
            broken.append(f"{method} {at} {status}")
    for one in broken[:5]:
        print("   ", one, file=sys.stderr)
    return Outcome("Odd bodies from the API's document", times, f"{len(broken)} not answered in words", not broken)


def hostile_files(count: int) -> Iterator[bytes]:
    """Files that are no clips, or clips that were broken: cut off, with bits turned over, with parts of other files in them."""
    whole, chance = CLIP.read_bytes(), random.Random(1)
    yield from (
        b"",
        b"\0" * 5000,
        b"just text\n" * 300,
        b"<svg xmlns='http://www.w3.org/2000/svg'/>",
        b"#EXTM3U\nhttp://127.0.0.1/x.ts\n",
        b"RIFF\xff\xff\xff\xffAVI ",
    )
    for place in range(count - 6):
        content = bytearray(whole)
        match place % 4:
            case 0:
                del content[chance.randrange(20, len(content)) :]
            case 1:
                for _ in range(chance.choice((3, 100, 3000))):
                    content[chance.randrange(len(content))] ^= 1 << chance.randrange(8)
            case 2:
                at = chance.randrange(len(content))
                content[at : at + 4000] = chance.randbytes(4000)
            case _:
                # The tables at the end say how many pictures there are, how large, and where.
                table = content.rfind(b"moov")
                for _ in range(40):
                    content[chance.randrange(table, len(content))] = chance.randrange(256)
        yield bytes(content)


def files(site: Site, _: str, times: int) -> Outcome:
    """Hostile files sent in: each is refused in words, or ends as a clip that failed in words or was measured."""
    browser, taken, wordless = site.browser(), list[str](), 0
    for content in hostile_files(times):
        status, told = browser.upload(content)
        if status == 201:
            taken.append(json.loads(told)["id"])
        elif not (400 <= status < 500 and re.search(rb"[a-z]{2} ", told)):
            wordless += 1
    deadline = time.monotonic() + 60 + 30 * len(taken)
    open_ones, ends = set(taken), {"done": 0, "failed": 0}
    while open_ones and time.monotonic() < deadline:
        for one in list(open_ones):
            job = json.loads(browser.ask(f"/api/clips/{one}")[1])["job"]
            if job["state"] in ends:
                open_ones.discard(one)
                ends[job["state"]] += 1
                wordless += job["state"] == "failed" and (not job["error_message"] or job["error_code"] in ("internal", "gave_up"))
        time.sleep(1.0)
    for one in taken:
        browser.ask(f"/api/clips/{one}", "DELETE")
    came = f"{times - len(taken)} refused, {ends['failed']} failed, {ends['done']} measured, {wordless} of them without words"
    return Outcome("Hostile files", times, came, not wordless and not open_ones)


ATTACKS: dict[str, tuple[Callable[[Site, str, int], Outcome], int]] = {
    "many": (many_lifts, 12),
    "kills": (kills, 1000), "hung": (hung_worker, 3), "same": (same_file_at_once, 60), "tabs": (two_tabs, 16), "held": (held_open, 64),
    "addresses": (forged_addresses, 60), "bodies": (odd_bodies, 4500), "files": (files, 200),
}  # fmt: skip


def full_disk(mb: int = 96) -> Outcome | None:
    """A place whose disk is full: what is there can be read, what cannot be kept is said so, and once there is room all goes on. None where
    no small disk can be had."""
    with tempfile.TemporaryDirectory() as at:
        if subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={mb}m", "tmpfs", at], capture_output=True).returncode:
            return None
        try:
            with running(Path(at)) as site:
                browser = site.browser()
                browser.upload(CLIP.read_bytes())
                stranger = Browser(site.port)
                stranger.ask("/api/session")
                stuffing = Path(at) / "stuffing"
                with stuffing.open("wb", 0) as filled, suppress(OSError):
                    while filled.write(b"\0" * 4096):
                        pass
                full = {
                    "list": browser.ask("/api/clips", patient=False), "upload": browser.upload(CLIP.read_bytes() + b"x", patient=False),
                    "athlete": browser.ask("/api/athletes", "POST", {"name": "x" * 80}, patient=False),
                    "sign in": stranger.ask("/api/session", "POST", {"username": NAME, "password": PASSWORD}, patient=False),
                }  # fmt: skip
                stuffing.unlink()
                after = browser.ask("/api/athletes", "POST", {"name": "Orla Quill"})[0]
                read = full.pop("list")[0]
                said = all(400 <= status <= 507 and status != 500 and re.search(rb"[a-z]{2} ", body) for status, body in full.values())
                came = (
                    f"reading {read}, " + ", ".join(f"{name} {status}" for name, (status, _) in full.items()) + f"; with room again {after}"
                )
                return Outcome("Writing on a full disk", len(full), came, read == 200 and said and after == 201)
        finally:
            subprocess.run(["umount", "-l", at], capture_output=True)


def main() -> None:
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("--only", choices=[*ATTACKS, "disk"], action="append")
    asked.add_argument("--share", type=float, default=1.0, help="of how often each is tried")
    chosen = asked.parse_args()
    rows: list[Outcome] = []
    wanted = chosen.only or [*ATTACKS, "disk"]
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as var, running(Path(var)) as site:
        clip = measured(site, site.browser(), CLIP.read_bytes(), 600)
        for name, (attack, times) in ATTACKS.items():
            if name in wanted:
                rows.append(attack(site, clip, max(round(chosen.share * times), 1)))
                print(rows[-1], file=sys.stderr, flush=True)
    if "disk" in wanted and (told := full_disk()) is not None:
        rows.append(told)
    rows.sort(key=lambda row: row.sound)
    table(["Tried", "Times", "Came of it", "Sound"], [[row.tried, str(row.times), row.came, "yes" if row.sound else "NO"] for row in rows])
    sys.exit(not all(row.sound for row in rows))


if __name__ == "__main__":
    main()
