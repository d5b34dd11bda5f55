"""The certificate by which the processes of one studio know each other.

One key, made at set-up, kept in the home folder for its owner alone. Whoever has it may join;
nobody else gets as far as saying anything. A machine that is to join is given a copy of the folder.
"""

from __future__ import annotations

import datetime as dt
import os
import sys
from pathlib import Path
from typing import TYPE_CHECKING

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID

if TYPE_CHECKING:
    from distributed import Security

FOLDER = "keys"
CERTIFICATE, KEY = "studio.pem", "studio-key.pem"
LASTS = dt.timedelta(days=3650)
RENEW_BEFORE = dt.timedelta(days=30)
OWNER_ONLY_FOLDER, OWNER_ONLY_FILE = 0o700, 0o600


def provide_keys(home: Path) -> Path:
    """Make the studio's key and certificate where there are none, or none that last; returns their folder."""
    folder = home / FOLDER
    folder.mkdir(mode=OWNER_ONLY_FOLDER, parents=True, exist_ok=True)
    folder.chmod(OWNER_ONLY_FOLDER)
    if not _lasts(folder):
        _make(folder)
    return folder


def crew_security(folder: Path) -> Security:
    """What every connection of the crew is made with: encrypted, both ends proving that they hold the key.

    As in the documentation of dask.distributed, "TLS/SSL": the certificate is its own authority.

    folder : of `provide_keys`
    """
    from distributed import Security

    certificate, key = str(folder / CERTIFICATE), str(folder / KEY)
    roles = {
        f"tls_{role}_{what}": path
        for role in ("client", "scheduler", "worker")
        for what, path in (("cert", certificate), ("key", key))
    }
    return Security(require_encryption=True, tls_ca_file=certificate, **roles)


def _lasts(folder: Path) -> bool:
    try:
        found = x509.load_pem_x509_certificate((folder / CERTIFICATE).read_bytes())
        serialization.load_pem_private_key((folder / KEY).read_bytes(), password=None)
    except (OSError, ValueError):
        return False
    return found.not_valid_after_utc - dt.datetime.now(dt.UTC) > RENEW_BEFORE


def _make(folder: Path) -> None:
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Giftwrap studio")])
    now = dt.datetime.now(dt.UTC)
    certificate = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - dt.timedelta(days=1))
        .not_valid_after(now + LASTS)
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .sign(key, hashes.SHA256())
    )
    private = key.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )
    _write(folder / KEY, private)
    _write(folder / CERTIFICATE, certificate.public_bytes(serialization.Encoding.PEM))


def _write(path: Path, data: bytes) -> None:
    partial = path.with_name(f".part-{path.name}")
    partial.unlink(missing_ok=True)
    with os.fdopen(os.open(partial, os.O_WRONLY | os.O_CREAT | os.O_EXCL, OWNER_ONLY_FILE), "wb") as file:
        file.write(data)
    partial.replace(path)


if __name__ == "__main__":
    provide_keys(Path(sys.argv[1]))
