#!/usr/bin/env python3
"""Renders single bass notes of known pitch from an open General MIDI sound bank, for tests/measure/measure_test.cpp.

Needs Debian's fluidsynth, fluid-soundfont-gm and sox. The notes' pitch is that of their MIDI number in equal
temperament at A4 = 440 Hz. Usage: make_bass_notes.py OUT_DIR
"""
import pathlib
import subprocess
import sys
import tempfile

BANK = "/usr/share/sounds/sf2/FluidR3_GM.sf2"
NOTES = [(32, 28), (32, 33), (33, 29), (33, 36), (34, 31), (35, 33), (38, 28), (38, 40), (39, 33), (36, 38)]


def midi_file(program, note):
    track = bytes([0, 0xC0, program, 0, 0x90, note, 100]) + bytes([0x83, 0x60, 0x80, note, 0]) + bytes([0x83, 0x60, 0xFF, 0x2F, 0])
    return b"MThd" + (6).to_bytes(4, "big") + bytes([0, 0, 0, 1, 1, 0xE0]) + b"MTrk" + len(track).to_bytes(4, "big") + track


def main():
    out = pathlib.Path(sys.argv[1])
    out.mkdir(parents=True, exist_ok=True)
    for program, note in NOTES:
        with tempfile.TemporaryDirectory() as work:
            song, sound = pathlib.Path(work, "n.mid"), pathlib.Path(work, "n.wav")
            song.write_bytes(midi_file(program, note))
            subprocess.run(["fluidsynth", "-ni", "-R", "0", "-C", "0", "-r", "44100", "-g", "1", "-F", sound, BANK, song], check=True, capture_output=True)
            subprocess.run(["sox", sound, "-b", "16", "-r", "11025", "-c", "1", str(out / f"program{program}-note{note}.flac"), "trim", "0", "0.7"], check=True)


main()
