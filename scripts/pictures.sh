#!/bin/sh
# Makes docs/screenshots anew from the demo: scripts/pictures.sh [DIR] [WIDTHxHEIGHT]. Needs a release build and Xvfb.
set -eu
cd "$(dirname "$0")/.."
to=${1:-docs/screenshots}
size=${2:-1280x800}
mkdir -p "$to"
HEFT_PICTURES=$to HEFT_PICTURE_SIZE=$size xvfb-run -a -s "-screen 0 ${size}x24" env QT_QPA_PLATFORM=xcb \
  build/release/bin/heft-app-tests --gtest_brief=1 --gtest_filter='Pictures.*'
