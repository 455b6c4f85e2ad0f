#!/bin/sh
# Runs heft-bench and adds its figures to docs/runs.csv: date, commit, figure, value, unit. Needs a release build and a
# quiet machine. scripts/bench.sh [FILTER]
set -eu
cd "$(dirname "$0")/.."
out=$(mktemp)
trap 'rm -f "$out"' EXIT
build/release/bin/heft-bench --benchmark_filter="${1:-.}" --benchmark_out="$out" --benchmark_out_format=json > /dev/null
/usr/bin/python3 - "$out" "$(date +%F)" "$(git rev-parse --short HEAD)" <<'PY'
import csv, json, os, sys
made, day, commit = sys.argv[1:]
to = "docs/runs.csv"
fresh = not os.path.exists(to)
with open(to, "a", newline="") as f:
    out = csv.writer(f, lineterminator="\n")
    if fresh:
        out.writerow(["date", "commit", "figure", "value", "unit"])
    for run in json.load(open(made))["benchmarks"]:
        out.writerow([day, commit, run["name"], f"{run['real_time']:.3g}", run["time_unit"]])
PY
