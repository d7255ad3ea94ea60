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

"$tool" sheet demo/apiary/keeper.yaml --clip walk --clip net --clip leap -o "$shots/sheet.png"
"$tool" sheet demo/apiary/smoker.yaml -o "$shots/sheet_smoker.png"
"$tool" sheet demo/apiary/hornet.yaml --clip hover --clip dive --clip stunned --clip fall -o "$shots/sheet_hornet.png"
"$tool" draw demo/apiary/keeper.yaml -o "$shots/graph.png"
"$tool" draw demo/apiary/hornet.yaml --dark -o "$shots/graph_dark.png"
"$tool" run demo/apiary/keeper.tape.yaml --picture "$shots/lanes.png" >/dev/null
"$tool" sheet demo/apiary/keeper.yaml --clip net --clip land --ghost idle:0 --zoom 4 --dark -o "$shots/sheet_ghost.png"
/usr/bin/python3 docs/draw_terminal.py "$shots/marks.png" "mobrin marks keeper.yaml --clip net" "$tool" marks demo/apiary/keeper.yaml --clip net
"$tool" sheet demo/apiary/hive.yaml -o "$shots/sheet_hive.png"
/usr/bin/python3 docs/draw_terminal.py "$shots/run_hornet.png" "mobrin run hornet.tape.yaml" "$tool" run demo/apiary/hornet.tape.yaml
/usr/bin/python3 docs/draw_terminal.py "$shots/run.png" "mobrin run keeper.yaml --tape keeper.tape.yaml" "$tool" run demo/apiary/keeper.yaml --tape demo/apiary/keeper.tape.yaml
/usr/bin/python3 docs/draw_terminal.py "$shots/explain.png" "mobrin explain keeper.yaml --tape keeper.tape.yaml --at 1.75s" "$tool" explain demo/apiary/keeper.yaml --tape demo/apiary/keeper.tape.yaml --at 1.75s
/usr/bin/python3 docs/draw_terminal.py "$shots/list.png" "mobrin list keeper.yaml" "$tool" list demo/apiary/keeper.yaml
/usr/bin/python3 docs/draw_terminal.py "$shots/check.png" "mobrin check broken.yaml" "$tool" check docs/broken.yaml
