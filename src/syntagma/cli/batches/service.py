"""service: the stand-in for a generation service, on this machine; and which hosts models may speak to."""

import contextlib
import signal
import threading

from syntagma.cli import args, terminal


def arguments(parser: args.Parser) -> None:
    parser.add_argument("what", metavar="WHAT", nargs="?", default="", choices=("", "bind", "unbind", "resume", "list"), help="bind HOST, unbind HOST, resume HOST (after it charged too much), list; left out: serve")
    parser.add_argument("host", metavar="HOST", nargs="?", default="", help="with bind, unbind: the host of a service, api.example or an address")
    parser.add_argument("--env", metavar="NAME", default="", help="with bind: the environment variable that holds the secret")
    parser.add_argument("--file", metavar="PATH", default="", help="with bind: the file that holds the secret")
    parser.add_argument("--no-secret", action="store_true", help="with bind: it takes none")
    parser.add_argument("--port", metavar="N", type=int, default=8787, help="the port on this machine (default: 8787; 0: any that is free)")
    parser.add_argument("--faults", metavar="A,B", default="", help="faults on demand: slow, drop, 429, 500, garbled, late, twice, expire, refuse, forget, short; or all")
    parser.add_argument("--seed", metavar="N", type=int, default=1, help="what fixes the faults (default: 1)")
    parser.add_argument("--takes", metavar="S", type=float, default=0.4, help="seconds that a task takes (default: 0.4)")
    parser.add_argument("--credit", metavar="N", type=float, default=1e9, help="the credit that it begins with")
    parser.add_argument("--key", metavar="TEXT", default="", help="a key that it asks for (Authorization: Bearer …)")
    parser.add_argument("--no-keys", action="store_true", help="it knows no idempotency keys")
    parser.add_argument("--for", metavar="S", type=float, default=0, dest="seconds", help="serve for so many seconds, then end")
    parser.examples("syntagma service --faults drop,429,garbled --seed 7", "syntagma service bind api.example --env EXAMPLE_KEY")


def run(call) -> int:
    from syntagma.storage.trouble import Trouble

    if not call.what:
        return _serve(call)
    from syntagma.app.batches.dealing.services import bind, bindings, halted, resume, unbind

    if call.what == "list":
        stopped = halted()
        terminal.table(("host", "secret"), [(one.host, one.said) for one in bindings().values()])
        for host, why in stopped.items():
            terminal.say((host, terminal.WRONG), f" is halted: {why}; once you have looked: syntagma service resume {host}", error=False)
        return 0
    if not call.host:
        raise Trouble("no host is named", f"write syntagma service {call.what} api.example", 2)
    if call.what == "resume":
        terminal.say(f"{call.host} is sent to again" if resume(call.host) else f"{call.host} was not halted")
        return 0
    if call.what == "unbind":
        terminal.say(f"{call.host} is not bound any more" if unbind(call.host) else f"{call.host} was not bound")
        return 0
    if sum((bool(call.env), bool(call.file), call.no_secret)) != 1:
        raise Trouble("say where the secret is, and only where: a secret itself is never typed", "write --env NAME, --file PATH or --no-secret", 2)
    one = bind(call.host, call.env, call.file)
    terminal.say(f"models may speak to {one.host}, with {one.said}")
    return 0


def _serve(call) -> int:
    from importlib.util import find_spec

    from syntagma.app.batches.standin import standin
    from syntagma.app.workspace.workspace import Workspace
    from syntagma.storage.trouble import Trouble

    if not find_spec("PIL"):
        raise Trouble("the stand-in draws its pictures with Pillow", "install it: pip install 'syntagma[service]'")
    server = standin(Workspace.load(), call.port, call.faults, call.seed, call.takes, not call.no_keys, call.key, call.credit)
    with contextlib.suppress(ValueError):
        signal.signal(signal.SIGTERM, lambda *_: threading.Thread(target=server.shutdown).start())
    terminal.say(f"a stand-in for a generation service, at {server.address}{f' with faults: {call.faults}' if call.faults else ''}; Ctrl-C ends it")
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
