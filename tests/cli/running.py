"""Commands run within the tests' own process."""

import json

from lodestaff.main import main


def run(capsys, *arguments):
    code = main(list(map(str, arguments)))
    out = capsys.readouterr()
    return code, out.out, out.err


def run_json(capsys, *arguments):
    code, out, _ = run(capsys, *arguments, "--json")
    return code, json.loads(out)
