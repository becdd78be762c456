#!/usr/bin/env bash
# The shape of the source tree: a layer of the core includes only layers below it, nothing in the core includes a program,
# no headers include each other in a circle, no folder is crowded and no file is too long.
set -euo pipefail
cd "$(dirname "$0")/.."
failed=0
say() {
  echo "$1"
  failed=1
}

# Layers from the ground up, as core/CMakeLists.txt has them.
layers=$(sed -n 's/^foreach(layer \(.*\))$/\1/p' core/CMakeLists.txt)
[ -n "$layers" ] || say "core/CMakeLists.txt names no layers"

upward=$(grep -rHn --include='*.h' --include='*.cpp' '^#include "' core | awk -v layers="$layers" '
  BEGIN { n = split(layers, list, " "); for (i = 1; i <= n; ++i) rank[list[i]] = i }
  {
    split($0, part, ":"); split(part[1], path, "/"); from = path[2]
    match($0, /"[^"]*"/); target = substr($0, RSTART + 1, RLENGTH - 2); split(target, to, "/")
    if (!(to[1] in rank)) print part[1] ":" part[2] " includes " target ", which is no layer of the core"
    else if (rank[to[1]] > rank[from]) print part[1] ":" part[2] " includes " target " from a higher layer"
  }')
[ -z "$upward" ] || say "$upward"

# Pairs of files that include each other, for a topological sort.
pairs=$(grep -rHo --include='*.h' '^#include "[^"]*"' core app cli demo tests |
  sed 's/:#include "/ /; s/"$//' |
  while read -r from target; do
    [ -f "$target" ] && echo "$from $target"
    [ -f "core/$target" ] && echo "$from core/$target"
    true
  done)
circles=$(echo "$pairs" | tsort 2>&1 >/dev/null | head -n 8 || true)
[ -z "$circles" ] || say "Headers include each other in a circle: $circles"

# Numbers are read and written with a point, whatever the locale of the desktop.
by_locale=$(grep -rnE --include='*.h' --include='*.cpp' '\b(stod|stof|atof|strtod|strtof)\(' core app cli demo || true)
[ -z "$by_locale" ] || say "These go by the locale: $by_locale"

most=25
crowded=$(find core app cli demo tests bench fuzz -name '*.cpp' -printf '%h\n' | sort | uniq -c |
  awk -v most=$most '$1 > most { print $2 " holds " $1 " sources, more than " most }')
[ -z "$crowded" ] || say "$crowded"

longest=500
long=$(find core app cli demo tests bench fuzz \( -name '*.cpp' -o -name '*.h' \) -exec wc -l {} + |
  awk -v longest=$longest '$2 != "total" && $1 > longest { print $2 " has " $1 " lines, more than " longest }')
[ -z "$long" ] || say "$long"

[ "$failed" -eq 0 ] && echo "The structure holds."
exit "$failed"
