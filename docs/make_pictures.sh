#!/usr/bin/env bash
# Makes docs/screenshots and the generated parts of docs/ anew. Usage: docs/make_pictures.sh TOOL
set -euo pipefail
tool=$(realpath "$1")
cd "$(dirname "$0")/.."
shots=docs/screenshots

"$tool" schema >docs/mobrin.schema.json
# Tables in format.md stand between `<!-- keys: SECTION -->` and `<!-- end -->`.
awk -v tool="$tool" '
  /^<!-- keys: / { print; section = $3; command = tool " schema --keys " section; while ((command | getline row) > 0) print row; close(command); skip = 1; next }
  /^<!-- end -->/ { skip = 0 }
  !skip { print }
' docs/format.md >docs/format.md.new
mv docs/format.md.new docs/format.md

/usr/bin/python3 docs/pack_grammar.py docs/pack.md

"$tool" sheet demo/apiary/keeper.yaml --clip walk --clip net --clip leap -o "$shots/sheet.png"
"$tool" draw demo/apiary/keeper.yaml -o "$shots/graph.png"
"$tool" draw demo/apiary/hornet.yaml --dark -o "$shots/graph_dark.png"
"$tool" run demo/apiary/keeper.tape.yaml --picture "$shots/lanes.png" >/dev/null
"$tool" sheet demo/apiary/keeper.yaml --clip net --clip land --ghost idle:0 --zoom 4 --dark -o "$shots/sheet_ghost.png"
/usr/bin/python3 docs/draw_terminal.py "$shots/marks.png" "mobrin marks keeper.yaml --clip net" "$tool" marks demo/apiary/keeper.yaml --clip net
"$tool" run demo/apiary/dusk.scene.yaml --picture "$shots/dusk_lanes.png" >/dev/null
"$tool" draw demo/apiary/dusk.scene.yaml --at 0.5s --at 2.06s --at 2.4s --at 3.6s --at 5.1s --at 6.9s --at 7.7s --at 8.2s --at 9s -o "$shots/dusk_strip.png"
"$tool" draw demo/apiary/dusk.scene.yaml --plain --fps 10 -o "$shots/dusk.apng"
"$(dirname "$tool")/../../examples/draw_weights" "$shots/weights.png"
[ -s out/bench/crowd.json ] && "$(dirname "$tool")/../../examples/draw_growth" out/bench/crowd.json "$shots/growth.png"  # what ./dev bench measured here
"$tool" draw demo/apiary/smoke.scene.yaml --at 1.6s --at 2.8s --at 3.2s --at 4.8s -o "$shots/smoke_strip.png"
/usr/bin/python3 docs/draw_terminal.py "$shots/run_hornet.png" "mobrin run hornet.tape.yaml" "$tool" run demo/apiary/hornet.tape.yaml
/usr/bin/python3 docs/draw_terminal.py "$shots/run.png" "mobrin run keeper.yaml --tape keeper.tape.yaml" "$tool" run demo/apiary/keeper.yaml --tape demo/apiary/keeper.tape.yaml
/usr/bin/python3 docs/draw_terminal.py "$shots/explain.png" "mobrin explain keeper.yaml --set carrying=net --press swing@0.9s swing@0.96s stung@0.97s --at 0.97s" "$tool" explain demo/apiary/keeper.yaml --set carrying=net --press swing@0.9s swing@0.96s stung@0.97s --at 0.97s
/usr/bin/python3 docs/draw_terminal.py "$shots/check.png" "mobrin check broken.yaml" "$tool" check docs/broken.yaml
/usr/bin/python3 docs/draw_terminal.py "$shots/prove.png" "mobrin prove keeper.yaml" "$tool" prove demo/apiary/keeper.yaml
/usr/bin/python3 docs/draw_page.py "$tool" demo/apiary "$shots"
