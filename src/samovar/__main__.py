"""The program's entry: answers `--version` at once, draws the first picture at once, leaves all else to the command line."""

import gc
import sys


def main() -> None:
    """Run the command line; what can be done before anything heavy is imported is done before."""
    arguments = sys.argv[1:]
    if arguments == ["--version"]:
        from samovar import __version__

        print(f"samovar {__version__}")
        return
    if arguments[:1] == ["agent"] and not {"--write", "--help"} & set(arguments):
        # On a machine under test nothing is imported that is not needed there.
        from samovar.agent.serve import main as serve

        serve(arguments[1:])
        return
    from samovar import first_frame

    plain = None
    if first_frame.opens_interface(arguments):
        first_frame.draw()
        # What is imported now stays: looking through it for what could be thrown away takes a tenth of the start.
        gc.disable()
        plain = first_frame.plain_start(arguments)
    try:
        if plain is not None:
            # Whoever only opens the interface need not wait for what reads a command line.
            from samovar.cli.said import guarded

            status = guarded(lambda: _open(plain))
        else:
            from samovar.cli.main import run

            status = run()
    finally:
        first_frame.leave()
    sys.exit(status)


def _open(named: dict[str, str]) -> int:
    from pathlib import Path

    from samovar.archive import Archive
    from samovar.tui.start import start

    start(named.get("--archive") or Archive.usual_place(), Path(named.get("--sysroot", "/")))
    return 0


if __name__ == "__main__":
    main()
