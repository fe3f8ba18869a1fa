"""The program's entry: answers `--version` at once, draws the first picture at once, leaves all else to the command line."""

import sys


def main() -> None:
    """Run the command line; what can be done before anything heavy is imported is done before."""
    if sys.argv[1:] == ["--version"]:
        from samovar import __version__

        print(f"samovar {__version__}")
        return
    from samovar import first_frame

    if first_frame.opens_interface(sys.argv[1:]):
        first_frame.draw()
    try:
        from samovar.cli.main import run

        status = run()
    finally:
        first_frame.leave()
    sys.exit(status)


if __name__ == "__main__":
    main()
