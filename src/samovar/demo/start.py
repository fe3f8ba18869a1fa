"""The demo's way in: its archive made at first start, and the tour that runs without a terminal."""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from samovar import first_frame
from samovar.archive import Archive
from samovar.archive.place import files_of


def demo_archive(named: Path | None, fresh: bool) -> Path:
    """The demo's archive, made now where there is none.

    Raises:
        ArchiveError: the place cannot be written.
    """
    place = named or Archive.usual_place().with_name("demo.sqlite")
    if fresh:
        for leftover in files_of(place):
            leftover.unlink(missing_ok=True)
    if not place.exists():
        from samovar.demo.build import build

        # What is recorded now takes its time, and is told on the terminal itself.
        first_frame.leave()
        terminal = sys.stderr.isatty()

        def progress(done: int, total: int) -> None:
            if terminal:
                bar = "━" * round(30 * done / total)
                text = f"\rRecording the demo's runs {bar:<30} {done} of {total}"
                print(text, end="" if done < total else "\n", file=sys.stderr, flush=True)

        build(place, progress)
    return place


def run_tour(place: Path, folder: Path | None) -> None:
    """Record a short run at speed, read it, compare it, publish the review, and say where."""
    from samovar.archive.review_data import load_review
    from samovar.archive.rig_comparison import compare_on
    from samovar.bench.course_spec import CourseSpec
    from samovar.core.results.figure import figure_of
    from samovar.publish.review import publish_review
    from samovar.recording.live import LiveRun
    from samovar.report import headline
    from samovar.simulator.machine import SimulatedMachine

    target = folder or Path(tempfile.mkdtemp(prefix="samovar-tour-")) / "voice-booth"
    with Archive(place) as archive:
        review = archive.reviews.reviews()[0]
        setup = next(s for s in review.setups if s.name == "Loam P")
        load = "worst case"
        machine = SimulatedMachine(setup.name, room_c=22.6, speed=None)
        try:
            print(f"Recording {setup.name}, {load}, as fast as the rig can live.")
            spec = CourseSpec(load, load_most_s=1800.0, cool_down_most_s=300.0)
            run = LiveRun(archive, machine, spec, review=review, setup=setup, patience_s=None)
            run.run()
        finally:
            machine.close()
        reading = archive.runs.reading(run.number)
        print(f"Read {run.id}: {headline(reading)}")
        data = load_review(archive, review)
        figure = figure_of("rise")
        print(f"Compared under {load}, by {figure.label}:")
        for rung in compare_on(data, load, figure).ladder.rungs:
            print(f"  {rung.name:<12} {figure.text(rung.figure)}, {rung.passes} passes")
        written = publish_review(archive, review, target)
        print(f"Published {len(written)} files: {target / 'index.html'}")
