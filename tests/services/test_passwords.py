from __future__ import annotations

from importlib.util import find_spec, module_from_spec
from typing import Any

from jentrow.services.accounts import passwords


def as_imported() -> Any:
    """The module as the server has it: the other tests take a quicker digest."""
    spec = find_spec(passwords.__name__)
    assert spec is not None
    assert spec.loader is not None
    module = module_from_spec(spec)
    spec.loader.exec_module(module)
    return module


def test_a_password_is_kept_as_a_digest_that_takes_long() -> None:
    real = as_imported()
    kept = real.hashed("over the high pass")
    # The least that OWASP's password storage guide asks of Argon2id.
    assert kept.startswith("$argon2id$v=19$m=19456,t=2,p=1$")
    assert kept != real.hashed("over the high pass")
    assert real.is_password("over the high pass", kept)
    assert not real.is_password("over the low pass", kept)


def test_nobody_is_signed_in_by_what_was_never_kept() -> None:
    real = as_imported()
    assert not real.is_password("", "")
    assert not real.is_password("over the high pass", "over the high pass")
    # How long it takes tells nobody that there is no such person.
    assert real.NOBODYS.startswith("$argon2id$v=19$m=19456,t=2,p=1$")
