#!/usr/bin/python3
"""Facts of references against truth: reference_truth.py OUT MATERIAL... (folders that make-material wrote).

Mixes their references' stems with a bass that dips by a known curve and kicks of known note and length, runs
heft-cli reference on each, and prints hit rates. Needs python3-numpy, python3-scipy and python3-soundfile.
"""
import json
import os
import random
import subprocess
import sys

import numpy as np
import soundfile as sf
from scipy import signal

CLI = os.path.join(os.path.dirname(__file__), "../../build/release/bin/heft-cli")


def kick_of(rate, hz, seconds, octaves):
    t = np.arange(int(rate * (seconds + 0.02))) / rate
    phase = 2 * np.pi * np.cumsum(hz * 2 ** (octaves * np.exp(-t / 0.018))) / rate
    fade = 0.5 - 0.5 * np.cos(np.pi * np.clip((seconds - t) / 0.015, 0, 1))
    click = 0.15 * np.random.RandomState(0).randn(len(t)) * np.exp(-t / 0.003)
    return np.sin(phase) * np.exp(-t / (0.6 * seconds)) * fade * np.clip(t / 0.0008, 0, 1) + click


def put(stem, sound, hits, rate):
    for t, velocity in hits:
        at = int(round(t * rate))
        count = min(len(sound), len(stem) - at)
        if count > 0:
            stem[at:at + count] += (sound[:count] * (velocity / 127))[:, None]


def mix(folder, variant, rng):
    truth = json.load(open(folder + "/truth.json"))
    stems = {n: sf.read(f"{folder}/{n}.wav", always_2d=True) for n in ("kick", "bass", "drums", "chords")}
    rate, frames = stems["kick"][1], max(len(x) for x, _ in stems.values())
    stems = {n: np.vstack([x, np.zeros((frames - len(x), 2))]) for n, (x, _) in stems.items()}
    hz = seconds = None
    if variant in ("made", "deep"):
        hz, seconds = rng.choice([41.2, 46.25, 49.0, 51.9, 55.0, 58.3, 61.7]), rng.choice([0.1, 0.14, 0.18, 0.24, 0.3])
        stems["kick"][:] = 0
        put(stems["kick"], kick_of(rate, hz, seconds, rng.choice([1, 1.5, 2])), truth["kick"], rate)
    depth = {"bank": rng.choice([4, 6, 8]), "made": rng.choice([3, 6, 9, 12]), "none": 0, "deep": rng.choice([15, 20])}[variant]
    hold, release = rng.choice([0.02, 0.04, 0.06]), rng.choice([0.06, 0.1, 0.15])
    down = 0.5 - 0.5 * np.cos(np.pi * np.arange(int(0.004 * rate)) / (0.004 * rate))
    up = 0.5 + 0.5 * np.cos(np.pi * np.arange(int(release * rate)) / (release * rate))
    shape = -depth * np.concatenate([down, np.ones(int(hold * rate)), up])
    gain = np.zeros(frames)
    for t, _ in truth["kick"]:
        at = int(round(t * rate))
        count = min(len(shape), frames - at)
        if count > 0:
            gain[at:at + count] = np.minimum(gain[at:at + count], shape[:count])
    level = lambda x, peak: x * (peak / max(1e-9, np.abs(x).max()))
    bass = level(stems["bass"], 0.28) * (10 ** (gain / 20))[:, None]
    out = 0.7 * (level(stems["kick"], 0.5) + bass + level(stems["drums"], 0.22) + level(stems["chords"], 0.16))
    under = np.where(shape < -0.5)[0]
    return out, rate, {"hits": [t for t, _ in truth["kick"]], "bpm": truth["bpm"], "hz": hz, "depth": depth,
                       "back": 1000 * under[-1] / rate if len(under) else None}


def between_quiet_parts(sound, rate, bpm, rng):
    """The mix between an intro and an outro without lows; the seconds where it starts and ends."""
    bar = 240 / bpm * rate
    full = sound[:int(int(len(sound) / bar) * bar)]
    thin = signal.sosfilt(signal.butter(4, 180, "highpass", fs=rate, output="sos"), sound, axis=0)
    before, after = rng.choice([4, 8]), rng.choice([0, 4, 8])
    whole = np.vstack([thin[:int(before * bar)], full, thin[:int(after * bar)]])
    return whole, before * bar / rate, (before * bar + len(full)) / rate


def facts_of(path, *more):
    run = subprocess.run([CLI, "reference", "--json", *more, path], capture_output=True, text=True)
    return json.loads(run.stdout)[0]


def main():
    out, rows, sections = sys.argv[1], [], []
    os.makedirs(out, exist_ok=True)
    for material in sys.argv[2:]:
        for i in (1, 2, 3):
            rng = random.Random(f"{material[-5:]} {i}")
            for variant in ("bank", "made", "none", "deep"):
                sound, rate, truth = mix(f"{material}/references/{i}", variant, rng)
                path = f"{out}/{os.path.basename(material)}-{i}-{variant}.wav"
                sf.write(path, sound, rate, subtype="PCM_24")
                rows.append((truth, facts_of(path, "--section", "0:600")))
                whole, start, end = between_quiet_parts(sound, rate, truth["bpm"], random.Random(path))
                sf.write(path, whole, rate, subtype="PCM_24")
                found, beat = facts_of(path)["section"], 60 / truth["bpm"]
                sections.append(found["name"] == "drop" and found["from_s"] > start - beat and found["to_s"] < end + beat)
    hits, wrong, all_hits, depth, back, cents, tempo = 0, 0, 0, [], [], [], 0
    for truth, facts in rows:
        found = np.array(facts["kick_hits"]) / 1000
        real = np.array([h for h in truth["hits"] if not len(found) or h < found.max() + 1])
        hits += sum(len(found) > 0 and np.abs(found - h).min() < 0.015 for h in real)
        wrong += sum(np.abs(real - f).min() >= 0.015 for f in found)
        all_hits += len(real)
        tempo += facts["tempo_bpm"] is not None and abs(facts["tempo_bpm"] - truth["bpm"]) < 0.1
        if facts["dip_db"] is not None:
            depth.append(facts["dip_db"] - truth["depth"])
        if facts["dip_back_ms"] is not None and truth["back"]:
            back.append(facts["dip_back_ms"] - truth["back"])
        if facts["kick_hz"] and truth["hz"] and facts["kick_lands"]:
            cents.append(1200 * np.log2(facts["kick_hz"] / truth["hz"]))
    share = lambda x, most: f"{sum(abs(v) <= most for v in x)} of {len(x)}"
    print(f"{len(rows)} mixes: hits {hits} of {all_hits}, false {wrong}; tempo {tempo}; landing within 30 cents {share(cents, 30)}; "
          f"sections {sum(sections)} of {len(sections)}; dip within 1.5 dB {share(depth, 1.5)}, median error {np.median(np.abs(depth)):.2f} dB; back within 20 ms {share(back, 20)}")


if __name__ == "__main__":
    main()
