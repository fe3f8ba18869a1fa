"""Work done aside: the loop lives meanwhile, handlers take turns, what goes wrong comes back to where it was asked for."""

from __future__ import annotations

import asyncio
import contextvars
import threading
import time
import unittest

from samovar.tui.aside import ArchiveAside, Turn, aside, waits_aside

HERE = contextvars.ContextVar[str]("HERE")


class AsideTest(unittest.TestCase):
    def test_handlers_take_turns_while_the_loop_lives(self) -> None:
        log: list[str] = []
        waits: list[bool] = []

        async def handler(name: str) -> str:
            HERE.set(name)
            for part in ("a", "b"):
                self.assertIsNot(aside(threading.current_thread), threading.main_thread())
                aside(time.sleep, 0.02)
                log.append(f"{name}{part}")
            await asyncio.sleep(0.001)
            self.assertEqual(HERE.get(), name)
            with self.assertRaises(ZeroDivisionError):
                aside(lambda: 1 // 0)
            return name

        async def main() -> int:
            turn, ticks = Turn(waits.append), 0

            async def tick() -> None:
                nonlocal ticks
                while True:
                    await asyncio.sleep(0.002)
                    ticks += 1

            ticking = asyncio.create_task(tick())
            found = await asyncio.gather(*(turn.driven(lambda n=n: handler(n)) for n in "xyz"))  # type: ignore[misc]
            ticking.cancel()
            self.assertEqual((found, turn.taken), (["x", "y", "z"], False))
            return ticks

        self.assertGreater(asyncio.run(main()), 10)
        # Between two of its own awaits no other comes in between.
        self.assertEqual(log, ["xa", "xb", "ya", "yb", "za", "zb"])
        self.assertEqual(sum(waits), len(waits) / 2)

    def test_what_needs_nothing_is_done_at_once_and_the_rest_goes_on_later(self) -> None:
        log: list[str] = []

        async def quick() -> None:
            log.append("quick")

        async def slow() -> str:
            log.append("begun")
            aside(time.sleep, 0.01)
            log.append("ended")
            return "slow"

        async def main() -> None:
            turn = Turn()
            self.assertIsNone(turn.begin(quick))
            left = turn.begin(slow)
            self.assertEqual(log, ["quick", "begun"])
            assert left is not None
            behind = turn.begin(quick)
            assert behind is not None
            self.assertEqual(await asyncio.gather(left(), behind()), ["slow", None])
            self.assertEqual(log, ["quick", "begun", "ended", "quick"])

        asyncio.run(main())

    def test_one_that_is_cancelled_lets_the_next_one_go_on(self) -> None:
        async def main() -> None:
            turn = Turn()

            async def slow() -> None:
                aside(time.sleep, 0.05)

            first = asyncio.create_task(turn.driven(slow))
            second = asyncio.create_task(turn.driven(slow))
            third = asyncio.create_task(turn.driven(slow))
            await asyncio.sleep(0.01)
            first.cancel()
            second.cancel()
            with self.assertRaises(asyncio.CancelledError):
                await first
            await third
            self.assertFalse(turn.taken)

        asyncio.run(main())

    def test_outside_of_a_handler_it_is_simply_done(self) -> None:
        self.assertFalse(waits_aside())
        self.assertIs(aside(threading.current_thread), threading.main_thread())
        seen = ArchiveAside(threading)
        self.assertIs(seen.current_thread(), threading.main_thread())


if __name__ == "__main__":
    unittest.main()
