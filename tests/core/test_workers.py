"""Work that is shared out to threads: all of it is done once, in order, and nobody waits for ever."""

import os
import threading
import time
import unittest

from hulmo.core.workers import WORKERS, ahead, by_pieces, side_by_side


class Stop(Exception):
    """What work raises here."""


class SideBySideTest(unittest.TestCase):
    def test_each_item_is_done_once_and_comes_in_order(self) -> None:
        for count in (0, 1, 2, 7, 400):
            done: list[int] = []

            def work(item: int, done: list[int] = done) -> int:
                done.append(item)
                time.sleep(0.001 * (item % 3 == 0))
                return item * item

            self.assertEqual(side_by_side(work, range(count)), [item * item for item in range(count)])
            self.assertEqual(sorted(done), list(range(count)))
            self.assertEqual(list(ahead(work, iter(range(count)))), [item * item for item in range(count)])
        parts: list[tuple[int, int]] = []
        by_pieces(lambda part: parts.append((part.start, part.stop)), 10, 4)
        self.assertEqual(sorted(parts), [(0, 4), (4, 8), (8, 12)])

    @unittest.skipIf(WORKERS < 2, "one thread alone")
    def test_others_help(self) -> None:
        both = threading.Barrier(2, timeout=20)
        side_by_side(lambda _: both.wait(), (0, 1))  # either waits for the other
        self.assertRaises(threading.BrokenBarrierError, side_by_side, lambda _: both.wait(0.05), (0, 1), 1)

    def test_work_may_share_out_work_while_all_helpers_are_busy(self) -> None:
        begun, end = threading.Semaphore(0), threading.Event()

        def hold(_: int) -> None:
            begun.release()
            end.wait(60)

        others = [threading.Thread(target=side_by_side, args=(hold, range(2 * WORKERS))) for _ in range(2)]
        for other in others:
            other.start()
        for _ in range(WORKERS + 2):
            self.assertTrue(begun.acquire(timeout=20))
        inner = side_by_side(lambda item: sum(side_by_side(lambda k: k * item, range(5))), range(20))
        self.assertEqual(inner, [10 * item for item in range(20)])
        self.assertEqual(list(ahead(lambda item: item + 1, range(9))), list(range(1, 10)))
        end.set()
        for other in others:
            other.join()

    def test_what_an_item_or_the_one_who_is_told_raises_ends_the_work(self) -> None:
        done: list[int] = []

        def work(item: int) -> None:
            done.append(item)
            if item == 3:
                raise Stop
            time.sleep(0.001)

        self.assertRaises(Stop, side_by_side, work, range(1000))
        self.assertLess(len(done), 50)

        def fail(item: int) -> None:
            time.sleep(0.002 if item < 2 else 0)
            raise Stop(item)

        for _ in range(20):  # of several, always the first
            with self.assertRaises(Stop) as told_of:
                side_by_side(fail, range(8))
            self.assertEqual(told_of.exception.args, (0,))

        def told(count: int) -> None:
            if count >= 2:
                raise Stop

        self.assertRaises(Stop, side_by_side, lambda _: time.sleep(0.001), range(1000), WORKERS, told)
        done.clear()
        self.assertRaises(Stop, list, ahead(work, range(1000)))
        self.assertLess(len(done), 50)
        some = ahead(done.append, range(1000))
        next(some)
        del some  # whoever breaks off leaves no work behind
        time.sleep(0.05)
        self.assertLess(len(done), 60)

    def test_a_fork_has_helpers_of_its_own(self) -> None:
        side_by_side(str, range(8))
        child = os.fork()
        if child == 0:  # what the journal does to write a snapshot
            right = side_by_side(str, range(8)) == [str(item) for item in range(8)]
            os._exit(0 if right and list(ahead(str, range(3))) == ["0", "1", "2"] else 1)
        limit = time.monotonic() + 20
        pid, status = 0, 1
        while not pid and time.monotonic() < limit:
            pid, status = os.waitpid(child, os.WNOHANG)
            time.sleep(0.01)
        self.assertEqual((pid, status), (child, 0))
