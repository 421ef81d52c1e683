"""service: which hosts models may speak to; and a local service for trials."""

import contextlib
import signal
import threading
from argparse import Namespace

from syntagma.cli import args, terminal


def arguments(parser: args.Parser) -> None:
    parser.json("services")
    parser.examples(
        "syntagma service",
        "syntagma service add api.example --env EXAMPLE_KEY",
        "syntagma service simulate --faults drop,429,garbled --seed 7",
    )


def run(call: Namespace) -> int:
    """The services that models may speak to."""
    from syntagma.app.batches.services import bindings, halted

    stopped = halted()
    if call.json:
        terminal.items(
            {"host": one.host, "secret": one.said, "halted": stopped.get(one.host, "")}
            for one in bindings().values()
        )
        return 0
    if not bindings():
        terminal.say(
            "No service yet: syntagma service add HOST --env NAME allows one; syntagma service"
            " simulate runs one for trials."
        )
        return 0
    terminal.table(("host", "secret"), [(one.host, one.said) for one in bindings().values()])
    for host, why in stopped.items():
        terminal.say(
            (host, terminal.WRONG),
            f" is halted: {why}; once you have checked: syntagma service resume {host}",
            error=False,
        )
    return 0


def _host(parser: args.Parser) -> None:
    parser.add_argument(
        "host", metavar="HOST", help="the host of a service, api.example or an address"
    )


def _add_arguments(parser: args.Parser) -> None:
    _host(parser)
    parser.add_argument(
        "--env", metavar="NAME", default="", help="the environment variable with the secret"
    )
    parser.add_argument("--file", metavar="PATH", default="", help="the file with the secret")
    parser.add_argument("--no-secret", action="store_true", help="the service needs no secret")
    parser.examples("syntagma service add api.example --env EXAMPLE_KEY")


def _remove_arguments(parser: args.Parser) -> None:
    _host(parser)
    parser.examples("syntagma service remove api.example")


def _resume_arguments(parser: args.Parser) -> None:
    _host(parser)
    parser.examples("syntagma service resume api.example")


def _simulate_arguments(parser: args.Parser) -> None:
    parser.add_argument("--port", type=int, default=8787)
    parser.add_argument(
        "--faults",
        metavar="A,B",
        default="",
        help=(
            "faults to simulate: slow, drop, 429, 500, garbled, late, twice, expire, refuse,"
            " forget, short; or all"
        ),
    )
    parser.add_argument(
        "--seed",
        metavar="N",
        type=int,
        default=1,
        help="the number that fixes the faults (default: 1)",
    )
    parser.add_argument(
        "--seconds",
        dest="takes",
        metavar="S",
        type=float,
        default=0.4,
        help="seconds per task (default: 0.4)",
    )
    parser.add_argument(
        "--balance", dest="credit", metavar="N", type=float, default=1e9, help="its starting credit"
    )
    parser.add_argument(
        "--key", metavar="TEXT", default="", help="a key that it requires (Authorization: Bearer …)"
    )
    parser.add_argument("--no-keys", action="store_true", help="don't support idempotency keys")
    parser.add_argument(
        "--stop-after",
        metavar="S",
        type=float,
        default=0,
        dest="seconds",
        help="serve for this many seconds, then stop",
    )
    parser.examples("syntagma service simulate --faults drop,429,garbled --seed 7")


def _add(call: Namespace) -> int:
    from syntagma.app.batches.services import bind
    from syntagma.core.diagnostics import Trouble

    if sum((bool(call.env), bool(call.file), call.no_secret)) != 1:
        raise Trouble(
            "say where the secret is kept; never type the secret itself",
            "write --env NAME, --file PATH or --no-secret",
            2,
        )
    one = bind(call.host, call.env, call.file)
    terminal.say(f"models may use {one.host}, with {one.said}")
    return 0


def _remove(call: Namespace) -> int:
    from syntagma.app.batches.services import unbind

    terminal.say(
        f"{call.host} is no longer allowed" if unbind(call.host) else f"{call.host} was not allowed"
    )
    return 0


def _resume(call: Namespace) -> int:
    from syntagma.app.batches.services import resume

    terminal.say(
        f"{call.host} can be sent to again" if resume(call.host) else f"{call.host} was not halted"
    )
    return 0


def _simulate(call: Namespace) -> int:
    from importlib.util import find_spec

    from syntagma.app.batches.standin import standin
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.core.diagnostics import Trouble

    if not find_spec("PIL"):
        raise Trouble(
            "the stand-in needs Pillow to draw its pictures",
            "install it: pip install 'syntagma[service]'",
        )
    server = standin(
        Workspace.load(),
        call.port,
        call.faults,
        call.seed,
        call.takes,
        not call.no_keys,
        call.key,
        call.credit,
    )
    with contextlib.suppress(ValueError):
        signal.signal(signal.SIGTERM, lambda *_: threading.Thread(target=server.shutdown).start())
    terminal.say(
        "a stand-in for a generation service, at"
        f" {server.address}{f' with faults: {call.faults}' if call.faults else ''}; Ctrl-C stops it"
    )
    if call.seconds:
        timer = threading.Timer(call.seconds, server.shutdown)
        timer.daemon = True  # nothing waits for it once the service has ended
        timer.start()
    try:
        server.serve_forever(poll_interval=0.1)
    except KeyboardInterrupt:
        pass
    finally:
        server.server_close()
    report = server.books.report()
    terminal.say(f"{len(report['charges'])} tasks, {report['sum']:g} charged")
    return 0


VERBS = {
    "add": args.Verb("let models use a host", _add_arguments, _add),
    "remove": args.Verb("stop models from using a host", _remove_arguments, _remove),
    "resume": args.Verb(
        "lift the halt on a host that charged too much", _resume_arguments, _resume
    ),
    "simulate": args.Verb("run a local service for trials", _simulate_arguments, _simulate),
}
