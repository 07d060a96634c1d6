"""The web server's door, tried as a real process: nobody who sends or reads slowly holds it open, and bodies are refused by their heads."""

from __future__ import annotations

import http.client
import json
import os
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import ExitStack, closing
from pathlib import Path

import pytest

from .test_jobs import SERVER

SET_UP = """
import datetime, json
from importlib import import_module
from django.conf import settings
from django.contrib.auth import BACKEND_SESSION_KEY, HASH_SESSION_KEY, SESSION_KEY
from django.contrib.auth.models import User
from clips.models import Clip
from jobs.services import request_analysis
from log.services import link_of
from people.models import Athlete
coach = User.objects.create_user("maren", password="saltmarsh-lane")
athlete = Athlete.objects.create(coach=coach, name="Ida Fenn", stature_m=1.6)
clip = Clip.objects.create(athlete=athlete, lift="snatch", file_name="a.mp4", suffix=".mp4", sha256="0" * 64, size_bytes=1, info={})
request_analysis(clip)
clip.derived_dir.mkdir(parents=True)
with clip.proxy_file.open("wb") as film:
    film.truncate(40 * 2**20)
    film.seek(1000)
    film.write(b"inside")
clip.proxy_times_file.write_text("[]")
session = import_module(settings.SESSION_ENGINE).SessionStore()
session[SESSION_KEY], session[BACKEND_SESSION_KEY] = str(coach.pk), settings.AUTHENTICATION_BACKENDS[0]
session[HASH_SESSION_KEY] = coach.get_session_auth_hash()
session.save()
print(json.dumps({"cookie": f"sessionid={session.session_key}", "clip": str(clip.pk), "link": link_of(athlete).token}))
"""
SOON_S = 2.0


class Site:
    def __init__(self, var: Path, port: int, told: dict[str, str]) -> None:
        self.var, self.port, self.told = var, port, told

    def ask(self, path: str, method: str = "GET", body: bytes | None = None, **headers: str) -> tuple[int, bytes]:
        with closing(http.client.HTTPConnection("127.0.0.1", self.port, timeout=30)) as line:
            line.request(method, path, body, headers)
            answer = line.getresponse()
            return answer.status, answer.read()

    def answers_soon(self) -> bool:
        began = time.monotonic()
        status, _ = self.ask("/api/clips", Cookie=self.told["cookie"])
        return status == 200 and time.monotonic() - began < SOON_S

    def line(self) -> socket.socket:
        return socket.create_connection(("127.0.0.1", self.port), timeout=30)

    def incoming(self) -> list[Path]:
        return list((self.var / "incoming").iterdir())


@pytest.fixture(scope="module")
def site(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Site]:
    var = tmp_path_factory.mktemp("var")
    manage, around = [sys.executable, "manage.py"], {**os.environ, "ATLETA_VAR": str(var), "ATLETA_MOST_UPLOAD_MB": "100"}
    subprocess.run([*manage, "migrate", "--verbosity", "0"], cwd=SERVER, env=around, check=True)
    set_up = subprocess.run([*manage, "shell", "-c", SET_UP], cwd=SERVER, env=around, check=True, capture_output=True, text=True)
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    running = subprocess.Popen([*manage, "serve", "--port", str(port)], cwd=SERVER, env=around)
    told = Site(var, port, json.loads(set_up.stdout.splitlines()[-1]))
    try:
        deadline = time.monotonic() + 60
        while True:
            try:
                told.ask("/api/session")
                break
            except OSError:
                assert time.monotonic() < deadline
                time.sleep(0.2)
        yield told
    finally:
        running.terminate()
        running.wait(20)


def test_half_sent_heads_and_bodies_hold_nobody_up(site: Site) -> None:
    head = f"POST /api/clips HTTP/1.1\r\nHost: localhost\r\nCookie: {site.told['cookie']}\r\n"
    with ExitStack() as held:
        for place in range(40):
            line = held.enter_context(closing(site.line()))
            line.sendall((head if place % 2 else f"{head}Content-Length: 5000000\r\n\r\nsome of it").encode())
        assert site.answers_soon()


def test_films_that_nobody_reads_hold_nobody_up(site: Site) -> None:
    with ExitStack() as held:
        for _ in range(20):
            line = held.enter_context(closing(site.line()))
            head = f"GET /api/clips/{site.told['clip']}/video.mp4 HTTP/1.1\r\nHost: localhost\r\nCookie: {site.told['cookie']}\r\n\r\n"
            line.sendall(head.encode())
            assert line.recv(12) == b"HTTP/1.1 200"
        assert site.answers_soon()


def test_a_part_of_a_film_is_that_part(site: Site) -> None:
    video = f"/api/clips/{site.told['clip']}/video.mp4"
    assert site.ask(video, Cookie=site.told["cookie"], Range="bytes=1000-1005") == (206, b"inside")
    assert len(site.ask(video, Cookie=site.told["cookie"])[1]) == 40 * 2**20
    assert site.ask(video, Cookie=site.told["cookie"], Range="bytes=99999999-")[0] == 416


@pytest.mark.parametrize(("path", "method", "length", "status"), [
    ("/api/clips", "POST", 10_000_000, 403),
    ("/api/training/no-such-link/clips", "POST", 10_000_000, 403),
    ("/api/session", "POST", 10_000_000, 413),
    ("/api/clips", "PUT", 10_000_000, 413),
])  # fmt: skip
def test_who_may_not_send_much_is_refused_and_nothing_of_it_is_kept(site: Site, path: str, method: str, length: int, status: int) -> None:
    got, body = site.ask(path, method, b"0" * length, **{"Content-Type": "multipart/form-data; boundary=x"})
    assert (got, json.loads(body)["detail"][-1]) == (status, ".")
    assert site.incoming() == []


def test_too_long_a_film_is_refused_at_its_head(site: Site) -> None:
    with closing(site.line()) as line:
        line.sendall(
            f"POST /api/clips HTTP/1.1\r\nHost: localhost\r\nCookie: {site.told['cookie']}\r\nContent-Length: 900000000\r\n"
            "Expect: 100-continue\r\n\r\n".encode()
        )
        assert b" 413 " in line.recv(100)


def test_a_body_that_does_not_say_how_long_it_is_is_refused(site: Site) -> None:
    with closing(site.line()) as line:
        line.sendall(b"POST /api/session HTTP/1.1\r\nHost: localhost\r\nTransfer-Encoding: chunked\r\n\r\n")
        assert b" 411 " in line.recv(100)


def test_a_small_body_is_taken_in(site: Site) -> None:
    wrong = json.dumps({"name": "maren", "password": "wrong"}).encode()
    assert site.ask("/api/session", "POST", wrong, **{"Content-Type": "application/json"})[0] in (400, 403)
