#!/bin/bash
# Brings fexel_de.ts up to date with the sentences of the window: new ones come in without a translation, those that are
# gone go. One sentence has one translation, wherever it stands, so all are in one context.
set -euo pipefail
here=$(cd "$(dirname "$0")" && pwd)
lupdate=$(command -v /usr/lib/qt6/bin/lupdate || command -v lupdate)
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cd "$here/../.."
"$lupdate" app -I . -extensions cpp,h -no-obsolete -locations none -ts "$work/new.ts" >/dev/null 2>&1
awk '
  BEGIN { RS = "</message>" }
  function inner(text, tag,   a, b, rest) {
    a = index(text, "<" tag); if (!a) return ""
    rest = substr(text, a); rest = substr(rest, index(rest, ">") + 1)
    b = index(rest, "</" tag ">"); return b ? substr(rest, 1, b - 1) : ""
  }
  FNR == NR { if (index($0, "<source>")) known[inner($0, "source")] = inner($0, "translation"); next }
  index($0, "<source>") {
    source = inner($0, "source")
    if (source in seen) next
    seen[source] = 1
    list[++count] = source
  }
  END {
    print "<?xml version=\"1.0\" encoding=\"utf-8\"?>\n<!DOCTYPE TS>\n<TS version=\"2.1\" language=\"de_DE\">\n<context>\n    <name>fexel</name>"
    for (i = 1; i <= count; ++i) {
      t = known[list[i]]
      print "    <message>\n        <source>" list[i] "</source>\n        <translation" (t == "" ? " type=\"unfinished\"" : "") ">" t "</translation>\n    </message>"
    }
    print "</context>\n</TS>"
  }' "$here/fexel_de.ts" "$work/new.ts" > "$work/merged.ts"
mv "$work/merged.ts" "$here/fexel_de.ts"
echo "$(grep -c '<source>' "$here/fexel_de.ts") sentences, $(grep -c 'type="unfinished"' "$here/fexel_de.ts" || true) of them without a translation"
