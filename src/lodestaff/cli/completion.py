"""Completion for shells, and the manual page: both made of the parser itself, so that none lags behind."""

import argparse
from collections.abc import Iterator

from lodestaff import __version__
from lodestaff.cli.exits import FINE
from lodestaff.cli.parser import DESCRIPTION, whole_parser

SHELLS = ("bash", "zsh", "fish")


def commands() -> dict[str, argparse.ArgumentParser]:
    """The parser of each command."""
    for action in whole_parser()._actions:
        if isinstance(action, argparse._SubParsersAction):
            return dict(action.choices)
    return {}


def completion(options: argparse.Namespace) -> int:
    """Print the completion of a shell."""
    print(script(options.shell), end="")
    return FINE


def script(shell: str) -> str:
    """The completion of a shell."""
    return {"bash": _bash, "zsh": _zsh, "fish": _fish}[shell]()


def _options(parser: argparse.ArgumentParser) -> Iterator[argparse.Action]:
    return (action for action in parser._actions if action.option_strings)


def _words(parser: argparse.ArgumentParser) -> str:
    """What may follow a command beside files: its options, and the choices of its arguments."""
    words = [name for option in _options(parser) for name in option.option_strings]
    for action in parser._actions:
        if not action.option_strings and action.choices is not None:
            words += [str(choice) for choice in action.choices]
    return " ".join(words)


def _bash() -> str:
    cases = "\n".join(f"        {name}) words='{_words(parser)}' ;;" for name, parser in commands().items())
    return f"""\
# completion of lodestaff for bash
_lodestaff() {{
    local word=${{COMP_WORDS[COMP_CWORD]}} words=
    if [ "$COMP_CWORD" -eq 1 ]; then
        words='{" ".join(commands())} --help --version'
    else
        case ${{COMP_WORDS[1]}} in
{cases}
        esac
    fi
    COMPREPLY=($(compgen -W "$words" -- "$word") $(compgen -f -- "$word"))
}}
complete -o filenames -F _lodestaff lodestaff
"""


def _zsh() -> str:
    return f"#compdef lodestaff\nautoload -U +X bashcompinit && bashcompinit\n{_bash()}"


def _fish() -> str:
    first = "__fish_use_subcommand"
    lines = ["# completion of lodestaff for fish"]
    for name, parser in commands().items():
        about = (parser.description or "").replace("'", "’")
        lines.append(f"complete -c lodestaff -n {first} -a {name} -d '{about}'")
        for option in _options(parser):
            names = " ".join(
                f"-l {text[2:]}" if text.startswith("--") else f"-s {text[1:]}"
                for text in option.option_strings
            )
            value = "" if option.nargs == 0 else " -r"
            help_text = (option.help or "").replace("'", "’").replace("%%", "%")
            seen = f"'__fish_seen_subcommand_from {name}'"
            lines.append(f"complete -c lodestaff -n {seen} {names}{value} -d '{help_text}'")
    return "\n".join(lines) + "\n"


def manual() -> str:
    """The manual page, in the man macros."""
    parts = [
        f'.TH LODESTAFF 1 "" "lodestaff {__version__}" "User commands"',
        ".SH NAME\nlodestaff \\- one solar and storage job, from the first visit to the handover",
        ".SH SYNOPSIS\n.B lodestaff\n[\\fIJOB\\fR]",
        ".br\n.B lodestaff\n\\fICOMMAND\\fR [\\fIARGUMENT\\fR ...]",
        f".SH DESCRIPTION\n{_roff(DESCRIPTION)}",
        ".SH COMMANDS",
    ]
    for name, parser in commands().items():
        usage = " ".join(parser.format_usage().removeprefix("usage: ").split())
        parts.append(f".SS {_roff(name)}\n{_roff(parser.description or '')}\n.PP\n.B {_roff(usage)}")
        for action in (option for option in _options(parser) if option.dest != "help"):
            named = ", ".join(action.option_strings)
            parts.append(f".TP\n.B {_roff(named)}\n{_roff((action.help or '').replace('%%', '%'))}")
    exits = (("0", "fine"), ("1", "findings that block"), ("2", "input that can't be read, in one line"),
             ("3", "a fault of the program; its trace is in the file that is named"))  # fmt: skip
    parts.append(".SH EXIT STATUS")
    parts += [f".TP\n.B {code}\n{_roff(words)}" for code, words in exits]
    return "\n".join(parts) + "\n"


def _roff(text: str) -> str:
    lines = text.replace("\\", "\\e").replace("-", "\\-").splitlines()
    return "\n".join(f"\\&{line}" if line.startswith((".", "'")) else line for line in lines)
