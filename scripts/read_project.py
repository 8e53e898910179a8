#!/usr/bin/env python3
"""Reads a Parola project without Parola: python3 scripts/read_project.py FILE.parola... OUT

FILE is a project file (several where one holds only what was new since another), or the folder of a
copy. Needs nothing but Python's standard library. Written from docs/formats.md alone. Into OUT go

  takes/                 every recording as WAV, 32-bit float, as it was recorded
  PART - TRACK.wav       what is heard of each track of each part: its pieces one after another, with
                         hard cuts; room tone and silence are zeros
  cues.csv               where each piece stands: part, track, start and end on the sheet in seconds,
                         recording, start in the recording, gain in dB, whether it is struck
  marks.csv              marks of each part, in seconds
  script.txt             the script, part by part
"""

import csv
import json
import os
import re
import struct
import sys
import zipfile
from array import array


class Archive:
    """Entries of several zip files, or files of a folder, by their names."""

    def __init__(self, paths):
        self.folder = paths[0] if os.path.isdir(paths[0]) else None
        self.zips = [] if self.folder else [zipfile.ZipFile(path) for path in paths]

    def manifest(self):
        if self.folder:
            states = []
            for name in os.listdir(os.path.join(self.folder, "states")):
                try:
                    with open(os.path.join(self.folder, "states", name), encoding="utf-8") as file:
                        states.append(json.load(file))
                except ValueError:
                    print(f"states/{name} cannot be read", file=sys.stderr)
            return max(states, key=lambda state: state["copy"]["sequence"])
        found = [json.loads(one.read("parola.json").decode("utf-8")) for one in self.zips]
        return max(found, key=lambda manifest: manifest.get("savedAt", 0))

    def audio(self, source):
        """The WAV file of a recording as bytes; None where there is none."""
        if self.folder:
            path = os.path.join(self.folder, "audio", source + ".wav")
            if not os.path.exists(path):
                return None
            with open(path, "rb") as file:
                return file.read()
        for one in self.zips:
            try:
                return one.read(f"sources/{source}.wav")
            except KeyError:
                continue
        return None


def samples(wav):
    """Interleaved samples of a 32-bit float WAV, RF64 included."""
    at = 12
    data_bytes = None
    while at + 8 <= len(wav):
        name, size = wav[at : at + 4], struct.unpack_from("<I", wav, at + 4)[0]
        if name == b"ds64":
            data_bytes = struct.unpack_from("<Q", wav, at + 16)[0]
        if name == b"data":
            found = array("f")
            found.frombytes(wav[at + 8 : at + 8 + (data_bytes if size == 0xFFFFFFFF else size)])
            if sys.byteorder == "big":
                found.byteswap()
            return found
        at += 8 + size + size % 2
    raise ValueError("no audio in a WAV file")


def write_wav(path, audio, rate, channels=1):
    audio = array("f", audio)
    if sys.byteorder == "big":
        audio.byteswap()
    data = audio.tobytes()
    header = b"fmt " + struct.pack("<IHHIIHHH", 18, 3, channels, rate, rate * 4 * channels, 4 * channels, 32, 0)
    header += b"fact" + struct.pack("<II", 4, len(audio) // channels)
    with open(path, "wb") as file:
        file.write(b"RIFF" + struct.pack("<I", 4 + len(header) + 8 + len(data)) + b"WAVE" + header)
        file.write(b"data" + struct.pack("<I", len(data)) + data)


def safe(name):
    return re.sub(r"[^\w .()-]+", "-", name).strip(" .") or "untitled"


def unstruck(length, struck):
    """The ranges of the sheet that are heard."""
    at = 0
    for one in struck:
        if one["from"] > at:
            yield at, one["from"]
        at = max(at, one["to"])
    if at < length:
        yield at, length


def heard(pieces, struck, recording):
    """What is heard of a track, and a row for each of its pieces."""
    sheet = array("f")
    rows = []
    for piece in pieces:
        at, length = len(sheet), piece["length"]
        if piece["kind"] == "audio":
            audio, channels = recording(piece["source"])
            gain = 10 ** (piece.get("gainDb", 0) / 20)
            first = piece["from"]
            part = audio[first * channels + piece["channel"] : (first + length) * channels : channels]
            if gain != 1:
                part = array("f", (value * gain for value in part))
            part.extend([0.0] * (length - len(part)))
            sheet.extend(part)
        else:
            sheet.extend(array("f", bytes(4 * length)))
        rows.append((at, at + length, piece))
    kept = array("f")
    for start, end in unstruck(len(sheet), struck):
        kept.extend(sheet[start:end])
    return kept, rows


def main(paths, out):
    archive = Archive(paths)
    manifest = archive.manifest()
    rate = manifest["project"]["rateHz"]
    sources = {source["id"]: source for source in manifest["sources"]}
    os.makedirs(os.path.join(out, "takes"), exist_ok=True)
    names = {}
    for source in manifest["sources"]:
        name = safe(source["name"])
        while name in names.values():
            name += "'"
        names[source["id"]] = name
        wav = archive.audio(source["id"])
        if wav is None:
            print(f"the audio of {source['name']} is missing", file=sys.stderr)
            continue
        with open(os.path.join(out, "takes", name + ".wav"), "wb") as file:
            file.write(wav)

    kept = {}

    def recording(source):
        # One recording is held at a time: a track reads on in the same one mostly.
        if source not in kept:
            kept.clear()
            wav = archive.audio(source)
            kept[source] = samples(wav) if wav else array("f")
        return kept[source], sources[source]["channels"]

    with open(os.path.join(out, "cues.csv"), "w", newline="", encoding="utf-8") as cue_file, open(
        os.path.join(out, "marks.csv"), "w", newline="", encoding="utf-8"
    ) as mark_file, open(os.path.join(out, "script.txt"), "w", encoding="utf-8") as script:
        cues, marks = csv.writer(cue_file), csv.writer(mark_file)
        cues.writerow(["part", "track", "start", "end", "kind", "recording", "from", "gain_db", "struck"])
        marks.writerow(["part", "kind", "at", "length", "name"])
        for part in manifest["parts"]:
            script.write(part["name"] + "\n\n" + "\n".join(line["text"] for line in part["script"]) + "\n\n")
            timeline = part["timeline"]
            struck = timeline.get("struck", [])
            for mark in timeline["marks"]:
                marks.writerow(
                    [part["name"], mark["kind"], mark["at"] / rate, mark["length"] / rate, mark["name"]]
                )
            for track in timeline["tracks"]:
                audio, rows = heard(track["pieces"], struck, recording)
                if audio:
                    write_wav(os.path.join(out, f"{safe(part['name'])} - {safe(track['name'])}.wav"), audio, rate)
                for start, end, piece in rows:
                    gone = any(one["from"] <= start and end <= one["to"] for one in struck)
                    cues.writerow(
                        [part["name"], track["name"], start / rate, end / rate, piece["kind"]]
                        + [names.get(piece.get("source"), ""), piece.get("from", 0) / rate]
                        + [piece.get("gainDb", 0), "yes" if gone else ""]
                    )


if __name__ == "__main__":
    if len(sys.argv) < 3:
        sys.exit(__doc__)
    main(sys.argv[1:-1], sys.argv[-1])
