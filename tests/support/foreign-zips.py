"""Writes ZIP files the way different programs do, and checks edited ones.

foreign-zips.py make FOLDER COUNT   writes FOLDER/N.zip and FOLDER/all.json: what each holds, by SHA-256
foreign-zips.py check FOLDER        reads FOLDER/edited/N.zip with zipfile or 7z and compares with FOLDER/wanted.json
"""
import hashlib
import io
import json
import os
import random
import shutil
import subprocess
import sys
import zipfile

METHODS = [zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED, zipfile.ZIP_BZIP2, zipfile.ZIP_LZMA]
SEVEN = ["Copy", "Deflate", "Deflate64", "BZip2", "LZMA"]
NAMES = ["a", "cabin", "Seil", "ünter", "日本", "with space", "dot.ted", "UPPER", "x" * 60]


def sha(data):
    return hashlib.sha256(data).hexdigest()


class Pipe:
    """A file that cannot go back: sizes then stand behind the bytes."""

    def __init__(self):
        self.data = bytearray()

    def write(self, data):
        self.data += data
        return len(data)

    def flush(self):
        pass


def some_files(lot, most=8):
    files = {}
    for _ in range(lot.randint(0, most)):
        parts = [lot.choice(NAMES) for _ in range(lot.randint(1, 3))]
        path = "/".join(parts) + lot.choice([".txt", ".bin", ""])
        if any(path.startswith(other + "/") or other.startswith(path + "/") for other in files):
            continue
        size = lot.choice([0, 1, 30, 3000])
        files[path] = lot.choice([lot.randbytes(size), b"valley " * (size // 7), bytes(size)])
    return files


def by_python(lot, files):
    method = lot.choice(METHODS)
    pipe = Pipe() if lot.random() < 0.25 else None
    far = lot.random() < 0.3
    prefix = lot.choice([b"", b"", b"#!/bin/sh\n", lot.randbytes(300)])
    counts_anew = lot.random() < 0.5
    target = pipe or io.BytesIO(prefix if counts_anew else b"")
    if pipe is None:
        target.seek(0, 2)
    with zipfile.ZipFile(target, "w" if pipe or not target.tell() else "a", method) as out:
        folders = {"/".join(path.split("/")[:i]) + "/" for path in files for i in range(1, path.count("/") + 1)}
        folders = sorted(folders) if lot.random() < 0.5 else []
        for name in folders:
            info = zipfile.ZipInfo(name, (2021, 5, 6, 7, 8, 10))
            info.external_attr = 0o40755 << 16 | 0x10
            out.writestr(info, b"")
        for path, data in files.items():
            info = zipfile.ZipInfo(path, (2022, 1, 2, 3, 4, 6))
            info.compress_type = lot.choice([method, zipfile.ZIP_STORED])
            info.external_attr = 0o100644 << 16
            info.extra = lot.choice([b"", b"\x99\x99\x04\0abcd"])
            info.comment = lot.choice([b"", b"a comment"])
            with out.open(info, "w", force_zip64=far) as one:
                one.write(data)
        out.comment = lot.choice([b"", b"for the valley"])
    data = pipe.data if pipe else bytearray(target.getvalue())
    if pipe and far:
        short_sizes(data, lot.choice([b"\0" * 8, b"\xff" * 8]))
    data = bytes(data)
    return (b"" if counts_anew and not pipe else prefix) + data, folders


def short_sizes(data, value):
    """Writers that cannot go back leave the short sizes of long entries at zero, or at their most: it varies by version."""
    with zipfile.ZipFile(io.BytesIO(bytes(data))) as archive:
        for info in archive.infolist():
            at = info.header_offset
            name = int.from_bytes(data[at + 26 : at + 28], "little")
            extra = data[at + 30 + name :][: int.from_bytes(data[at + 28 : at + 30], "little")]
            while len(extra) >= 4 and extra[:2] != b"\1\0":
                extra = extra[4 + int.from_bytes(extra[2:4], "little") :]
            if extra:
                data[at + 18 : at + 26] = value


def by_seven(lot, files, folder, name):
    tree = os.path.join(folder, "tree")
    shutil.rmtree(tree, ignore_errors=True)
    for path, data in files.items():
        at = os.path.join(tree, *path.split("/"))
        os.makedirs(os.path.dirname(at), exist_ok=True)
        with open(at, "wb") as out:
            out.write(data)
    lock = lot.choice([None, None, "ZipCrypto", "AES128", "AES256"])
    method = lot.choice(SEVEN[:-1] if lock else SEVEN)
    more = ["-pvalley", "-mem=" + lock] if lock else []
    more += lot.choice([[], ["-mtc=on", "-mta=on"], ["-mcu=on"]])
    subprocess.run(["7z", "a", "-tzip", "-mm=" + method, *more, name, "."], cwd=tree, check=True, stdout=subprocess.DEVNULL)
    return "valley" if lock else None


def make(folder, count):
    made = []
    for number in range(count):
        lot = random.Random(number)
        files = some_files(lot)
        name = os.path.join(folder, "%d.zip" % number)
        password, folders = None, None
        if number % 4 == 3 and files:
            password = by_seven(lot, files, folder, name)
        else:
            data, folders = by_python(lot, files)
            with open(name, "wb") as out:
                out.write(data)
        made.append({"file": name, "password": password, "folders": folders, "entries": {p: sha(d) for p, d in files.items()}})
    with open(os.path.join(folder, "all.json"), "w") as out:
        json.dump(made, out)


def read(name, password, folder):
    try:
        with zipfile.ZipFile(name) as archive:
            return {i.filename: sha(archive.read(i)) for i in archive.infolist() if not i.is_dir()}
    except (NotImplementedError, RuntimeError):
        pass
    out = os.path.join(folder, "out")
    shutil.rmtree(out, ignore_errors=True)
    subprocess.run(["7z", "x", "-y", "-p" + (password or ""), "-o" + out, name], check=True, stdout=subprocess.DEVNULL)
    found = {}
    for at, _, names in os.walk(out):
        for one in names:
            with open(os.path.join(at, one), "rb") as data:
                found[os.path.relpath(os.path.join(at, one), out)] = sha(data.read())
    return found


def check(folder):
    with open(os.path.join(folder, "wanted.json")) as data:
        wanted = json.load(data)
    wrong = []
    for one in wanted:
        try:
            found = read(one["file"], one["password"], folder)
        except Exception as error:  # whatever the reader says is the answer
            found = {"": "%s: %s" % (type(error).__name__, error)}
        if found != one["entries"]:
            wrong.append([one["file"], found, one["entries"]])
    print(json.dumps(wrong))


if sys.argv[1] == "make":
    make(sys.argv[2], int(sys.argv[3]))
else:
    check(sys.argv[2])
