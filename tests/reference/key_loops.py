#!/usr/bin/env python3
"""Plays loops of known key with an open General MIDI sound bank and counts how often heft-cli names it.

Usage: key_loops.py HEFT_CLI FOLDER [SEED]   (needs fluidsynth and timgm6mb-soundfont)
Eleven progressions, eighteen times each: any tonic, six instruments, with and without drums, 84 to 140 BPM.
"""
import json
import os
import random
import struct
import subprocess
import sys

BANK = "/usr/share/sounds/sf2/TimGM6mb.sf2"
MAJOR, MINOR = [0, 2, 4, 5, 7, 9, 11], [0, 2, 3, 5, 7, 8, 10]
# Degrees of the scale; True: the fifth's chord is major.
LOOPS = [("I IV V I", MAJOR, [0, 3, 4, 0], False), ("I V vi IV", MAJOR, [0, 4, 5, 3], False),
         ("I vi IV V", MAJOR, [0, 5, 3, 4], False), ("ii V I I", MAJOR, [1, 4, 0, 0], False),
         ("IV V I vi", MAJOR, [3, 4, 0, 5], False), ("i VI III VII", MINOR, [0, 5, 2, 6], False),
         ("i iv V i", MINOR, [0, 3, 4, 0], True), ("i VII VI VII", MINOR, [0, 6, 5, 6], False),
         ("i iv VI V", MINOR, [0, 3, 5, 4], True), ("i i VI VII", MINOR, [0, 0, 5, 6], False),
         ("i v VI iv", MINOR, [0, 4, 5, 3], False)]


def length(n):
    out = [n & 127]
    while n > 127:
        n >>= 7
        out.insert(0, (n & 127) | 128)
    return bytes(out)


def midi_file(events, bpm):
    track, now = b"\x00\xff\x51\x03" + int(60e6 / bpm).to_bytes(3, "big"), 0
    for at, _, data in sorted(events, key=lambda e: (e[0], e[1])):
        track += length(at - now) + data
        now = at
    track += b"\x00\xff\x2f\x00"
    return b"MThd" + struct.pack(">IHHH", 6, 0, 1, 480) + b"MTrk" + struct.pack(">I", len(track)) + track


def loop(rng, scale, degrees, major_fifth, tonic, bpm):
    events = [(0, 0, bytes([0xC0, rng.choice([0, 4, 25, 48, 81, 90])])), (0, 0, bytes([0xC1, rng.choice([33, 38, 39])]))]

    def note(channel, key, at, ticks, velocity):
        events.append((at, 1, bytes([0x90 + channel, key, velocity])))
        events.append((at + ticks, 0, bytes([0x80 + channel, key, 0])))

    def step(x):
        return scale[x % 7] + 12 * (x // 7)

    base, drums = tonic - 12 * (tonic > 6), rng.random() < 0.7
    for bar in range(12):
        degree, at = degrees[bar % 4], bar * 1920
        chord = [step(degree), step(degree + 2) + (major_fifth and degree == 4), step(degree + 4)]
        for key in chord:
            note(0, 60 + base + key, at, 900, 80)
            note(0, 60 + base + key, at + 960, 900, 80)
        note(0, 72 + base + rng.choice(chord), at + 480, 420, 90)
        for beat in range(4):
            note(1, 36 + base + chord[0] - 12 * (chord[0] > 7), at + 480 * beat, 400, 105)
            if drums:
                note(9, 36, at + 480 * beat, 100, 110)
                note(9, 42, at + 480 * beat + 240, 60, 80)
                if beat % 2:
                    note(9, 38, at + 480 * beat, 100, 100)
    return midi_file(events, bpm)


def key_number(name):
    root, mode = name.split()
    return ("C D EF G A B".index(root[0]) + (root[1:] == "#") - (root[1:] == "b")) % 12 + 12 * (mode == "minor")


def main():
    cli, folder = sys.argv[1:3]
    os.makedirs(folder, exist_ok=True)
    rng, wanted = random.Random(int(sys.argv[3]) if len(sys.argv) > 3 else 7), []
    for name, scale, degrees, major_fifth in LOOPS:
        for count in range(18):
            tonic, bpm = rng.randrange(12), rng.choice([84, 96, 124, 140])
            path = os.path.join(folder, f"{name.replace(' ', '-')} {count}")
            with open(path + ".mid", "wb") as out:
                out.write(loop(rng, scale, degrees, major_fifth, tonic, bpm))
            subprocess.run(["fluidsynth", "-ni", "-q", "-r", "44100", "-F", path + ".wav", BANK, path + ".mid"],
                           check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
            wanted.append((name, path + ".wav", tonic + 12 * (scale is MINOR)))
    right, relative, near, changes = {}, 0, 0, 0
    for name, path, key in wanted:
        row = json.loads(subprocess.run([cli, "key", path, "--json"], check=True, capture_output=True).stdout)[0]
        found = key_number(row["key"])
        right[name] = right.get(name, 0) + (found == key)
        relative += found == ((key + 3) % 12 if key >= 12 else (key + 9) % 12 + 12)
        near += key in [found] + [key_number(other["key"]) for other in row["runners_up"]]
        changes += row["changes_to"] is not None
    print(right)
    print(f"right {sum(right.values())}, the relative key {relative}, among four {near}, changes claimed {changes}"
          f" of {len(wanted)}")


if __name__ == "__main__":
    main()
