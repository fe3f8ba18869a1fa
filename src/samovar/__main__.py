"""The program's entry: answers `--version` at once, leaves all else to the command line."""

import sys


def main() -> None:
    """Run the command line; `--version` alone is answered before anything heavy is imported."""
    if sys.argv[1:] == ["--version"]:
        from samovar import __version__

        print(f"samovar {__version__}")
        return
    from samovar.cli.main import run

    sys.exit(run())


if __name__ == "__main__":
    main()
