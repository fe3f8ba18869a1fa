"""What the program remembers of whoever uses it: light or dark, dots or pixels. One small file, where the XDG Base Directory
Specification has it. The first picture reads it: nothing is imported here that this would have to wait for."""

import os

DARK, LIGHT = "dark", "light"
ON, OFF = "on", "off"
ALLOWED = {"theme": (DARK, LIGHT), "pixels": (ON, OFF)}
"""What may be set; the first word of each is what counts where nothing is."""


def settings_path() -> str:
    """The file, whether it is there or not."""
    base = os.environ.get("XDG_CONFIG_HOME", "")
    # A path that is not absolute is to be ignored, the specification says.
    folder = base if os.path.isabs(base) else os.path.expanduser("~/.config")
    return os.path.join(folder, "samovar", "settings.toml")


def read_settings(path: str) -> tuple[dict[str, str], str]:
    """Every setting, and what is wrong with the file in words, if anything is: what is wrong counts as not set."""
    kept, wrong = {key: words[0] for key, words in ALLOWED.items()}, ""
    try:
        with open(path, encoding="utf-8") as file:
            text = file.read()
    except (FileNotFoundError, NotADirectoryError):
        return kept, ""
    except (OSError, UnicodeDecodeError) as problem:
        return kept, f"{path}: cannot be read ({type(problem).__name__}); mend or remove it"
    import tomllib

    try:
        found = tomllib.loads(text)
    except tomllib.TOMLDecodeError as problem:
        return kept, f"{path}: {problem}; mend or remove it"
    for key, value in found.items():
        if key not in ALLOWED:
            wrong = wrong or f"{path}: {key!r:.40} is no setting; there are {', '.join(ALLOWED)}"
        elif value not in ALLOWED[key]:
            wrong = wrong or f"{path}: {key} is {value!r:.40}; write {' or '.join(ALLOWED[key])}"
        else:
            kept[key] = value
    return kept, wrong


def write_settings(path: str, settings: dict[str, str]) -> None:
    """Keep every setting.

    Raises:
        InputError: the file cannot be written.
    """
    from pathlib import Path

    from samovar.exchange.problems import InputError
    from samovar.exchange.whole_file import write_whole

    file = Path(path)
    try:
        file.parent.mkdir(parents=True, exist_ok=True)
    except OSError as problem:
        raise InputError(f"{path}: {problem.strerror or problem}; settings are not remembered") from problem
    write_whole(file, "".join(f'{key} = "{settings[key]}"\n' for key in ALLOWED))
