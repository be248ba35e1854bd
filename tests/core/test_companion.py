"""The companion process: the newest question is answered, shapes are sent once, and its death costs only itself."""

from __future__ import annotations

import os
import signal
import threading
import time
from collections.abc import Iterator

import numpy as np
import pytest

import zoo
from gullyrise.core.geometry import Transform
from gullyrise.core.placing.colliding import Near, Pair, Stand
from gullyrise.workers.companion import Companion, Shapes

BLOCK = zoo.mesh_of(zoo.block((0, 0, 0), (10, 10, 10)))
SHAPES: Shapes = {"block": [(BLOCK, Transform.identity())]}


def stand(id: int, x: float, digest: str = "block") -> Stand:
    place = Transform.moved(np.array([x, 0.0, 0.0]))
    return Stand(id, digest, tuple(place.matrix.ravel().tolist()))


class Answers:
    def __init__(self) -> None:
        self.found: list[tuple[int, list[Pair]]] = []
        self.troubles: list[Exception] = []
        self._came = threading.Event()

    def take(self, number: int, pairs: list[Pair], near: Near | None) -> None:
        self.found.append((number, pairs))
        self._came.set()

    def until(self, number: int, seconds: float = 200) -> list[Pair]:
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            for found, pairs in self.found:
                if found == number:
                    return pairs
            time.sleep(0.01)
        raise AssertionError(f"no answer to {number}")


@pytest.fixture
def asked() -> Iterator[tuple[Companion, Answers]]:
    answers = Answers()
    companion = Companion(answers.take, answers.troubles.append)
    yield companion, answers
    companion.close()
    assert not companion.alive and not answers.troubles


def test_collisions_come_and_shapes_are_sent_once(asked: tuple[Companion, Answers]) -> None:
    companion, answers = asked
    companion.ask(1, SHAPES, [stand(1, 0), stand(2, 5), stand(3, 30)], None)
    assert answers.until(1) == [(1, 2)]
    # It has the shape by now: a question without any is answered all the same.
    companion.ask(2, {}, [stand(1, 0), stand(2, 25), stand(3, 30)], {3})
    assert answers.until(2) == [(2, 3)] and companion.answered == 2


def test_of_many_questions_the_newest_is_answered(asked: tuple[Companion, Answers]) -> None:
    companion, answers = asked
    for number in range(1, 400):
        companion.ask(number, SHAPES, [stand(1, 0), stand(2, number / 30)], None)
    assert answers.until(399) == []
    assert len(answers.found) < 399 and [number for number, _ in answers.found] == sorted(number for number, _ in answers.found)


def test_one_that_died_is_followed_by_another_that_knows_all(asked: tuple[Companion, Answers]) -> None:
    companion, answers = asked
    companion.ask(1, SHAPES, [stand(1, 0), stand(2, 5)], None)
    answers.until(1)
    os.kill(companion.number_of_process, signal.SIGKILL)
    end = time.monotonic() + 200
    number = 1
    while time.monotonic() < end:
        number += 1
        companion.ask(number, SHAPES, [stand(1, 0), stand(2, 5)], None)
        time.sleep(0.3)
        if companion.answered == number:
            break
    assert answers.until(number) == [(1, 2)]


def test_a_shape_that_was_never_sent_brings_down_only_it(asked: tuple[Companion, Answers]) -> None:
    companion, answers = asked
    companion.ask(1, {}, [stand(1, 0, "unknown"), stand(2, 0, "unknown")], None)
    time.sleep(0.5)
    companion.ask(2, SHAPES, [stand(1, 0), stand(2, 5)], None)
    end = time.monotonic() + 200
    number = 2
    while time.monotonic() < end and companion.answered != number:
        number += 1
        companion.ask(number, SHAPES, [stand(1, 0), stand(2, 5)], None)
        time.sleep(0.3)
    assert answers.until(number) == [(1, 2)]
