"""This computer on its network: whether Morphe is open to it, at which addresses, with which certificate."""

from __future__ import annotations

import contextlib
import ipaddress
import socket
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

__all__ = ["OPEN", "Papers", "addresses", "papers"]

OPEN = "network-open"  # in the data folder: Morphe listens on the local network while it is there
NOWHERE = ("192.0.2.1", 9)  # TEST-NET-1, RFC 5737: a way is looked for, and nothing is sent
ROOT_LIFE, LIFE, RENEW = timedelta(days=3650), timedelta(days=397), timedelta(days=30)
BACK = timedelta(days=1)  # clocks of phones may be behind


@dataclass(frozen=True, slots=True, kw_only=True)
class Papers:
    """Files of the root and of this computer's certificate, and the fingerprints (SHA-256) of both."""

    root: Path
    certificate: Path
    key: Path
    root_print: str
    fingerprint: str  # of the certificate: the one that a browser shows


def addresses() -> tuple[str, ...]:
    """Addresses and names by which others on the network reach this computer; the likeliest first."""
    found = []
    # Without a network there is no way.
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as way, contextlib.suppress(OSError):
        way.connect(NOWHERE)
        found.append(way.getsockname()[0])
    name = socket.gethostname()
    with contextlib.suppress(OSError):  # of a name that nobody knows
        found += [str(info[4][0]) for info in socket.getaddrinfo(name, None, socket.AF_INET)]
    local = [a for a in dict.fromkeys(found) if not ipaddress.ip_address(a).is_loopback]
    return (*local, *([f"{name}.local"] if local and name != "localhost" else []))


def papers(folder: Path, hosts: tuple[str, ...]) -> Papers:
    """The root, made once, and a certificate for these hosts, made anew when they change or it runs out."""
    folder.mkdir(parents=True, exist_ok=True)
    folder.chmod(0o700)
    root_key, root = _root(folder)
    path, key_path = folder / "here.pem", folder / "here.key"
    if not _is_good(path, hosts, root):
        key = ec.generate_private_key(ec.SECP256R1())
        _keep(key_path, _key_text(key))
        _keep(path, _issued(hosts, key, root_key, root).public_bytes(serialization.Encoding.PEM))
    issued = x509.load_pem_x509_certificate(path.read_bytes())
    return Papers(
        root=folder / "root.pem", certificate=path, key=key_path, root_print=_print_of(root),
        fingerprint=_print_of(issued),
    )  # fmt: skip


def _print_of(certificate: x509.Certificate) -> str:
    return certificate.fingerprint(hashes.SHA256()).hex(":").upper()


def _root(folder: Path) -> tuple[ec.EllipticCurvePrivateKey, x509.Certificate]:
    path, key_path = folder / "root.pem", folder / "root.key"
    if path.exists() and key_path.exists():
        key = serialization.load_pem_private_key(key_path.read_bytes(), None)
        if isinstance(key, ec.EllipticCurvePrivateKey):
            return key, x509.load_pem_x509_certificate(path.read_bytes())
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, f"Morphe on {socket.gethostname()}"[:64])])
    root = _begun(name, name, key.public_key(), ROOT_LIFE).add_extension(
        x509.BasicConstraints(ca=True, path_length=0), critical=True
    ).add_extension(_usage(signs_certificates=True), critical=True).sign(key, hashes.SHA256())  # fmt: skip
    _keep(key_path, _key_text(key))
    _keep(path, root.public_bytes(serialization.Encoding.PEM))
    return key, root


def _issued(
    hosts: tuple[str, ...], key: ec.EllipticCurvePrivateKey, root_key: ec.EllipticCurvePrivateKey,
    root: x509.Certificate,
) -> x509.Certificate:  # fmt: skip
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Morphe")])
    begun = _begun(name, root.subject, key.public_key(), LIFE)
    begun = begun.add_extension(x509.SubjectAlternativeName([_named(h) for h in hosts]), critical=False)
    begun = begun.add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
    begun = begun.add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
    return begun.add_extension(_usage(), critical=True).sign(root_key, hashes.SHA256())


def _begun(
    name: x509.Name, issuer: x509.Name, key: ec.EllipticCurvePublicKey, life: timedelta
) -> x509.CertificateBuilder:
    now = datetime.now(UTC)
    return (
        x509.CertificateBuilder().subject_name(name).issuer_name(issuer).public_key(key)
        .serial_number(x509.random_serial_number()).not_valid_before(now - BACK).not_valid_after(now + life)
    )  # fmt: skip


def _usage(*, signs_certificates: bool = False) -> x509.KeyUsage:
    return x509.KeyUsage(
        digital_signature=not signs_certificates, key_cert_sign=signs_certificates,
        crl_sign=signs_certificates, content_commitment=False, key_encipherment=False,
        data_encipherment=False, key_agreement=False,
        encipher_only=False, decipher_only=False,
    )  # fmt: skip


def _named(host: str) -> x509.GeneralName:
    try:
        return x509.IPAddress(ipaddress.ip_address(host))
    except ValueError:
        return x509.DNSName(host)


def _is_good(path: Path, hosts: tuple[str, ...], root: x509.Certificate) -> bool:
    """Whether a certificate is of this root, names these hosts, and lasts for some weeks."""
    if not path.exists():
        return False
    found = x509.load_pem_x509_certificate(path.read_bytes())
    named = found.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    lasts = found.not_valid_after_utc - RENEW > datetime.now(UTC)
    return lasts and found.issuer == root.subject and list(named) == [_named(h) for h in hosts]


def _key_text(key: ec.EllipticCurvePrivateKey) -> bytes:
    return key.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )


def _keep(path: Path, content: bytes) -> None:
    path.unlink(missing_ok=True)
    path.touch(mode=0o600)
    path.write_bytes(content)
