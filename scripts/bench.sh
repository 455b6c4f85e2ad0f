#!/bin/sh
# Runs heft-bench and adds its figures to docs/runs.csv: date, commit, figure, value, unit. Each is the lowest of eight
# repetitions in mixed order, since other work on the machine only ever adds. Needs a release build. scripts/bench.sh [FILTER]
set -eu
cd "$(dirname "$0")/.."
out=$(mktemp)
trap 'rm -f "$out"' EXIT
build/release/bin/heft-bench --benchmark_filter="${1:-.}" --benchmark_out="$out" --benchmark_out_format=json \
  --benchmark_repetitions=8 --benchmark_min_time=0.05 --benchmark_enable_random_interleaving=true > /dev/null
/usr/bin/python3 - "$out" "$(date +%F)" "$(git rev-parse --short HEAD)" <<'PY'
import csv, json, os, sys
made, day, commit = sys.argv[1:]
to = "docs/runs.csv"
fresh = not os.path.exists(to)
with open(to, "a", newline="") as f:
    out = csv.writer(f, lineterminator="\n")
    if fresh:
        out.writerow(["date", "commit", "figure", "value", "unit"])
    least = {}
    for run in json.load(open(made))["benchmarks"]:
        if run["run_type"] == "iteration":
            name = run["run_name"].replace("/repeats:8", "")
            least[name] = min(least.get(name, (float("inf"), "")), (run["real_time"], run["time_unit"]))
    for name, (value, unit) in sorted(least.items()):
        out.writerow([day, commit, name, f"{value:.3g}", unit])
PY
