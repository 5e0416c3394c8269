"""The queue of proofs, and sweeps over one setting."""

from __future__ import annotations

import threading
import time

import pytest

from hasty_reel.demo.make import demo_reel as made_reel
from hasty_reel.errors import RendererFault, Stopped, WrongInput
from hasty_reel.farm.order import ProofOrder
from hasty_reel.farm.queue import CANCELLED, DONE, FAILED, WAITING, Entry, ProofQueue
from hasty_reel.farm.sweeps import next_label, read_values, sweep_orders, swept_words, usual_values
from hasty_reel.settings.recipe import SETTING
from hasty_reel.work import CancelToken

REEL = made_reel()
SHOT = REEL.shot("sh010")


def order(frame: int = 1001) -> ProofOrder:
    return ProofOrder(SHOT, REEL.recipe_of(SHOT), (frame,))


def work(queue: ProofQueue, make, stop: CancelToken | None = None) -> threading.Thread:
    thread = threading.Thread(target=queue.work, args=(make, lambda entry: None, stop or CancelToken()))
    thread.start()
    return thread


def until(condition) -> None:
    for _ in range(500):
        if condition():
            return
        time.sleep(0.01)
    raise AssertionError("it did not happen")


def test_orders_are_worked_off_in_order_and_what_waits_can_be_moved():
    queue, done = ProofQueue(), []
    entries = [queue.add(order(1001 + k)) for k in range(4)]
    queue.move(entries[3].number, -1)
    queue.move(entries[0].number, -1)  # it is the first already
    work(queue, lambda entry, tell: done.append(entry.number) or f"p{entry.number:03d}").join()
    assert done == [1, 2, 4, 3] and all(e.state == DONE for e in queue.entries)
    assert entries[2].proof == "p003" and not queue.waiting
    queue.clear_ended()
    assert queue.entries == []


def test_one_that_fails_is_told_and_the_next_begins():
    queue = ProofQueue()
    for k in range(3):
        queue.add(order(1001 + k))

    def make(entry: Entry, tell) -> str:
        if entry.number == 1:
            raise RendererFault("Frame 1001: the renderer ended with status 3.")
        if entry.number == 2:
            entry.faults[1002] = "Frame 1002: the picture is not whole."
        return "p001"

    work(queue, make).join()
    one, two, three = queue.entries
    assert one.state == FAILED and "status 3" in one.words
    assert two.state == DONE and two.words.startswith("1 frame failed: Frame 1002")
    assert three.state == DONE and three.words == ""


def test_it_is_held_and_goes_on():
    queue, reached = ProofQueue(), []
    queue.add(order())
    queue.add(order(1002))

    def make(entry: Entry, tell) -> str:
        for k in range(5):
            tell(k / 5, "picture")
            reached.append((entry.number, k))
            time.sleep(0.01)
        return "p001"

    queue.pause()
    thread = work(queue, make)
    time.sleep(0.15)
    assert reached == [] and queue.paused
    queue.resume()
    until(lambda: len(reached) >= 2)
    queue.pause()
    time.sleep(0.1)
    held = len(reached)
    time.sleep(0.15)
    assert len(reached) == held < 10, "nothing begins while it is held"
    queue.resume()
    thread.join()
    assert len(reached) == 10


def test_one_is_cancelled_while_it_waits_or_renders_and_the_rest_goes_on():
    queue = ProofQueue()
    first, second, third = (queue.add(order(1001 + k)) for k in range(3))
    started = threading.Event()

    def make(entry: Entry, tell) -> str:
        started.set()
        for _ in range(300 if entry is first else 1):
            entry.cancel.check()
            time.sleep(0.01)
        return "p009"

    thread = work(queue, make)
    started.wait(5)
    queue.cancel(second.number)
    queue.cancel(first.number)
    thread.join()
    assert (first.state, second.state, third.state) == (CANCELLED, CANCELLED, DONE)
    assert "finished frames are kept" in first.words and "before it began" in second.words


def test_closing_stops_all_of_it_and_what_waits_stays():
    queue, stop = ProofQueue(), CancelToken()
    queue.add(order())
    queue.add(order(1002))
    queue.pause()

    def make(entry: Entry, tell) -> str:
        raise Stopped("never reached")

    thread = work(queue, make, stop)
    time.sleep(0.1)
    stop.cancel()
    thread.join(5)
    assert not thread.is_alive() and [e.state for e in queue.entries] == [WAITING, WAITING]


def test_a_sweep_starts_from_the_least():
    orders = sweep_orders(order(), "bounces", (6, 0, 2), "bounces 1")
    assert [o.recipe.bounces for o in orders] == [0, 2, 6] and {o.sweep for o in orders} == {"bounces 1"}
    ceilings = sweep_orders(order(), "brightness_ceiling", (None, 2.0, 10.0), "x")
    assert [o.recipe.brightness_ceiling for o in ceilings] == [2.0, 10.0, None]
    assert [o.recipe.fog_step for o in sweep_orders(order(), "fog_step", (50, 400, 100), "x")] == [400, 100, 50], (
        "coarse steps are the least"
    )
    assert [o.samples for o in sweep_orders(order(), "samples", (16, 4), "x")] == [4, 16]
    assert [swept_words(o) for o in sweep_orders(order(), "brightness_ceiling", (None, 2.0), "brightness_ceiling 3")] == [
        "brightness ceiling 2", "brightness ceiling none",
    ]  # fmt: skip
    assert [o.scale for o in sweep_orders(order(), "scale", (25, 10), "x")] == [10, 25]


@pytest.mark.parametrize(
    "name, values, words",
    [
        ("mood", (1, 2), "expected samples, scale or a line"),
        ("bounces", (1,), "1 values; expected 2 to 24"),
        ("bounces", (1, 99), "bounces is 99"),
        ("samples", (4, None), "none; expected a number"),
        ("scale", (10, 900), "Sweep over scale: 900"),
    ],
)
def test_sweeps_that_make_no_sense_are_told(name, values, words):
    with pytest.raises(WrongInput, match=words):
        sweep_orders(order(), name, values, "x")


RECIPE = REEL.recipe_of(SHOT)


def test_values_are_read_as_they_are_typed():
    assert read_values("bounces", "0, 1 ;2,4", "Sweep:", RECIPE) == [0, 1, 2, 4]
    assert read_values("scale", "12.5 %, 25", "Sweep:", RECIPE) == [12.5, 25]
    assert read_values("brightness_ceiling", "1,none", "Sweep:", RECIPE) == [1, None]
    value, name = SETTING["lamps"].names[0]
    assert read_values("lamps", f"{name}", "Sweep:", RECIPE) == [value]


@pytest.mark.parametrize("text, part", [("1,x", "x"), ("nan", "nan"), ("1,inf", "inf"), ("1,,2", ""), ("", "")])
def test_what_is_no_value_is_told_by_its_name(text, part):
    with pytest.raises(WrongInput, match=f"^Sweep: '{part}' is no number; expected values such as 0, 1, 2, 4, or none"):
        read_values("bounces", text, "Sweep:", RECIPE)


def test_a_sweep_begins_with_usual_values_and_can_be_ordered_with_them():
    recipe = RECIPE
    assert usual_values("bounces", recipe) == SETTING["bounces"].usual
    for name in SETTING:
        values = usual_values(name, recipe)
        assert len(set(values)) == len(values) >= 2
        assert len(sweep_orders(order(), name, values, "x")) == len(values)


def test_the_next_sweep_takes_the_first_free_number():
    assert next_label("bounces", {}.keys()) == "bounces 1"
    assert next_label("bounces", {"bounces 1", "bounces 3", "samples 2", ""}) == "bounces 2"
