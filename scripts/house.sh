#!/usr/bin/env bash
# How the house stands: the order of core's rooms, the length of files and of functions. Fails where one is broken.
set -eu
cd "$(dirname "$0")/.."

# Each room includes itself and the rooms before it.
rooms=(theory sound measure shape voices tune align duck compare session library render ledger export)
faults=0
for ((i = 0; i < ${#rooms[@]}; ++i)); do
  for ((k = i + 1; k < ${#rooms[@]}; ++k)); do
    if found=$(grep -rn "#include \"core/${rooms[k]}/" "core/${rooms[i]}"); then
      echo "core/${rooms[i]} must not see core/${rooms[k]}: $found" >&2
      faults=1
    fi
  done
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
# What pictures draw was made aside (core/ledger/layer_looks, the study, the stems).
if grep -rnE 'SoundSteps|spectrumOf\(|slidingPeak|measure[A-Z][A-Za-z]*\(' app/stages app/loop app/plots app/widgets app/fields | grep -v measureLanding; then
  echo "a widget must not measure or render" >&2
  faults=1
fi

most_lines=400 most_function=60

sources=$(find core engine app cli scenario bench tests -name '*.cpp' -o -name '*.h' | sort)
for file in $sources; do
  lines=$(wc -l <"$file")
  if [ "$lines" -gt $most_lines ]; then
    echo "$file has $lines lines, $most_lines at the most" >&2
    faults=1
  fi
done

# A function begins where a line at the margin opens a brace after a parenthesis, and ends at the next closing brace at
# the margin. Lambdas and methods in classes are counted within what holds them.
lengths=$(awk '
  FNR == 1 { open = 0 }
  /^[A-Za-z].*\(.*/ && !/;$/ && !/^(namespace|struct|class|enum|using|template|static_assert|extern)/ { if (!open) { start = FNR; name = $0 } }
  /\{$/ && /^[A-Za-z ]/ && start && !open && !/^(namespace|struct|class|enum|extern)/ { open = 1 }
  /^}/ { if (open) { print FNR - start + 1, FILENAME, name }; open = 0; start = 0 }
' $sources)
over=$(echo "$lengths" | awk -v most=$most_function '$1 > most' | grep -v '^[0-9]* tests/' | sort -rn || true)
while read -r count file name; do
  [ -z "${count:-}" ] && continue
  echo "$file: $count lines, $most_function at the most: $name" >&2
  faults=1
done <<<"$over"
echo "$lengths" | awk '{ print $1 }' | sort -n |
  awk '{ all[NR] = $1 } END { printf "functions: %d, median %d lines, 90th percentile %d\n", NR, all[int((NR + 1) / 2)], all[int(NR * 0.9)] }'
exit $faults
