#!/usr/bin/env bash
# How the house stands: the order of core's rooms, the length of files and of functions. Fails where one is broken.
set -eu
cd "$(dirname "$0")/.."

# Each room includes itself and the rooms before it.
faults=0
in_order() {
  local house=$1 i k
  shift
  local rooms=("$@")
  for ((i = 0; i < ${#rooms[@]}; ++i)); do
    for ((k = i + 1; k < ${#rooms[@]}; ++k)); do
      if found=$(grep -rn "#include \"$house/${rooms[k]}/" "$house/${rooms[i]}"); then
        echo "$house/${rooms[i]} must not see $house/${rooms[k]}: $found" >&2
        faults=1
      fi
    done
  done
}
in_order core theory sound measure shape voices tune align duck compare session library render study judge solve remedies looks export
in_order core/measure levels pitch events
in_order core/render cache sounds lanes
in_order engine player devices worker scan
in_order app theme widgets document files play desk pictures fields loop library kit stages shell
in_order app/stages processors sounds
for stage in sounds tune align duck compare export; do
  if grep -rnE "#include \"app/stages/(sounds|tune|align|duck|compare|export)/" app/stages/$stage app/stages/processors | grep -v "app/stages/$stage/.*\"app/stages/$stage/"; then
    echo "app/stages/$stage must not see another stage" >&2
    faults=1
  fi
done
if grep -rnE '#include <Q|#include "(app|engine|cli)/' core; then
  echo "core/ must not see Qt, the engine, the window or the command line" >&2
  faults=1
fi
if grep -rnE '#include <Q|#include "(app|cli)/' engine cli | grep -v '"cli/'; then
  echo "engine/ and cli/ must not see Qt or the window" >&2
  faults=1
fi

# A change of the document has its name and its test in core/session/edits.
if grep -rnE '\]\((heft::)?(Session|Part|Layer|Duck|Track|Recorded|Finish|KickVoice|BassVoice|Backing)& ' app; then
  echo "app/ must not change the document by itself: make it a named edit in core/session/edits" >&2
  faults=1
fi
# A result comes back by app/document/aside.h, which says why.
if grep -rnE '\.then\(|->then\(' app; then
  echo "app/ must not chain futures: use runAside" >&2
  faults=1
fi
# What pictures draw was made aside (core/looks/layer_looks, the study, the stems).
if grep -rnE 'SoundSteps|spectrumOf\(|slidingPeak|measure[A-Z][A-Za-z]*\(' app/stages app/loop app/pictures app/desk app/widgets app/fields | grep -v measureLanding; then
  echo "a widget must not measure or render" >&2
  faults=1
fi

most_lines=400 most_function=60 most_median=5 most_ninth=25

sources=$(find core engine app cli scenario bench tests -name '*.cpp' -o -name '*.h' | sort)
for file in $sources; do
  lines=$(wc -l <"$file")
  if [ "$lines" -gt $most_lines ]; then
    echo "$file has $lines lines, $most_lines at the most" >&2
    faults=1
  fi
done

# Length of every function, methods within classes too; tests are counted apart, for they are told as stories.
if ! command -v ctags >/dev/null; then
  echo "functions cannot be measured: install universal-ctags" >&2
  exit 1
fi
# shellcheck disable=SC2086  # file names, one word each
lengths=$(ctags --languages=C++ --c++-kinds=f --fields=+ne -f - $sources | grep -v '^!' | awk -F '\t' '
  { first = last = 0
    for (i = 4; i <= NF; ++i) { if ($i ~ /^line:/) first = substr($i, 6); if ($i ~ /^end:/) last = substr($i, 5) }
    if (last) print last - first + 1, $2, $1 }')
while read -r count file name; do
  [ "$count" -le $most_function ] && continue
  echo "$file: $name has $count lines, $most_function at the most" >&2
  faults=1
done <<<"$lengths"
# By folder: a room where they are short must not hide one where they are long.
by_folder=$(echo "$lengths" | grep -v ' tests/' | sort -n | awk '
  { split($2, path, "/"); room = path[1] == "core" || path[1] == "app" ? path[1] "/" path[2] : path[1]
    all[++n] = $1; of[room, ++count[room]] = $1 }
  END { print "all", n, all[int((n + 1) / 2)], all[int(n * 0.9)]
    for (room in count) print room, count[room], of[room, int((count[room] + 1) / 2)], of[room, int(count[room] * 0.9)] }')
while read -r room count median long; do
  [ "$room" = all ] && echo "functions: $count, median $median lines, 90th percentile $long"
  if { [ "$room" = all ] && [ "$median" -gt $most_median ]; } || { [ "$count" -ge 15 ] && [ "$long" -gt $most_ninth ]; }; then
    echo "functions of $room have become longer ($median, $long): median $most_median lines over all, 90th percentile $most_ninth a folder" >&2
    faults=1
  fi
done <<<"$by_folder"
exit $faults
