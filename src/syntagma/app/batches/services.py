"""Which service a person lets a model speak to: bound by them to its host, outside of any workspace (services.toml in their own folder), with what
holds the secret. No file that came from somebody can bind one, or say where a secret goes."""

import os
from collections.abc import Mapping
from typing import NamedTuple

from syntagma.app.workspace.workspace import Workspace
from syntagma.core.diagnostics.places import Refused
from syntagma.core.models.profile import Profile, Service
from syntagma.core.notation.structure import changed
from syntagma.core.notation.toml_file import TomlFile
from syntagma.core.notation.toml_writer import key, pair
from syntagma.service.client import Client, host_of, is_loopback, secret_of
from syntagma.storage.files import held, read_text, write_text
from syntagma.storage.folders import own_folder
from syntagma.storage.trouble import Trouble

SERVICES = "services.toml"


class Bound(NamedTuple):
    """A host that a person bound: what holds its secret (an environment variable, or a file; neither where there is none)."""

    host: str
    env: str = ""
    file: str = ""

    @property
    def said(self) -> str:
        """Where the secret is, in words."""
        return f"the environment variable {self.env}" if self.env else f"the file {self.file}" if self.file else "no secret"


def bindings() -> dict[str, Bound]:
    """The hosts that this person bound. Raises Refused where the file can't be read."""
    path = own_folder() / SERVICES
    if not path.is_file():
        return {}
    file = TomlFile(read_text(path, "your services"), str(path))
    found = {}
    services = file.values().get("services", {})
    for host, table in services.items() if isinstance(services, dict) else ():
        if isinstance(table, dict):
            good = file.good(table, {"env": str, "file": str}, "a service", host)
            found[host.lower()] = Bound(host.lower(), good.get("env", ""), good.get("file", ""))
    if file.mistakes:
        raise Refused(file.mistakes)
    return found


def bind(host: str, env: str = "", file: str = "") -> Bound:
    """Let models speak to a host, with the secret that a variable or a file holds."""
    one = Bound(host_of(host) if "://" in host else host.lower().strip("/"), env, file)
    _write({**bindings(), one.host: one})
    return one


def unbind(host: str) -> bool:
    """Let no model speak to a host any more; was it bound?"""
    known = bindings()
    if known.pop(host.lower(), None) is None:
        return False
    _write(known)
    return True


def _write(known: Mapping[str, Bound]) -> None:
    path = own_folder() / SERVICES
    path.parent.mkdir(parents=True, exist_ok=True)
    with held(path):
        lines: list[str] = []
        for one in known.values():
            lines += [f"[services.{key(one.host)}]", *(pair(name, said) for name, said in (("env", one.env), ("file", one.file)) if said), ""]
        write_text(path, "\n".join(lines))


def service_of(workspace: Workspace, profile: Profile, at: str = "") -> tuple[Service, Bound]:
    """The service of a model, and what it is bound to. `at` is where the stand-in is, for models whose service is on this machine. Raises Trouble where
    there is none, or nobody bound it."""
    service = profile.service
    if service is None:
        raise Trouble(f"{profile.name} says no service", "describe it: [service] in the model's profile (docs/services.md)", 2)
    if at and is_loopback(host_of(service.address)):
        if not is_loopback(host_of(at)):
            raise Trouble(f"{at} is not on this machine", "--at says where the stand-in is: http://127.0.0.1:8787", 2)
        service = changed(service, address=at)
    host = host_of(service.address)
    if found := bindings().get(host):
        return service, found
    layers = [layer for layer, _ in workspace.models().get(profile.name, ())]
    if layers[-1:] == ["shipped"] and is_loopback(host):
        return service, Bound(host)  # the stand-in, by a profile that ships
    where = f"a model of the {layers[-1]}" if layers and layers[-1] != "own" else "the model"
    raise Trouble(
        f"{where} {profile.name} would send to {host or 'nowhere'}, and you have not bound that host",
        f"if it is meant: syntagma service bind {host or 'HOST'} --env NAME (the variable that holds the secret), or --no-secret", 2,
    )  # fmt: skip


def client_of(workspace: Workspace, profile: Profile, at: str = "") -> Client:
    """What speaks to the service of a model. Raises Trouble."""
    service, bound = service_of(workspace, profile, at)
    return Client(service, secret_of({"env": bound.env, "file": bound.file}, os.environ))
