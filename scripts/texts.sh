#!/bin/sh
# Lists every label, tip, menu entry and sentence of the window, one a line, for a reading against the wording rules:
# scripts/texts.sh [FILE]. Needs a release build.
set -eu
cd "$(dirname "$0")/.."
to=${1:-/dev/stdout}
list=$(mktemp)
trap 'rm -f "$list"' EXIT
HEFT_PICTURES=$(dirname "$list") HEFT_TEXTS=$list QT_QPA_PLATFORM=offscreen \
  build/release/bin/heft-app-tests --gtest_brief=1 --gtest_filter='Pictures.Texts' >/dev/null 2>&1
cat "$list" > "$to"
