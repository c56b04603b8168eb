#!/usr/bin/env bash
# Makes docs/screenshots anew from the demo's models: each command in a terminal of its own on a
# virtual display. Needs Xvfb, xterm, and import (ImageMagick).
set -euo pipefail
cd "$(dirname "$0")/.."
cargo build --release --locked
hurmo=$PWD/target/release/hurmo
shots=$PWD/docs/screenshots
work=$(mktemp -d)
display=:97
Xvfb $display -screen 0 1280x800x24 >/dev/null 2>&1 &
server=$!
trap 'kill $server; rm -rf "$work"' EXIT
sleep 1
cd "$work"
"$hurmo" demo saltmarsh >/dev/null
cp saltmarsh/before-and-after.png "$shots/before-and-after.png"
cd saltmarsh

# shot NAME ARGUMENT…: runs the program with these arguments and takes its picture.
shot() {
    local name=$1
    shift
    rm -f "$work/done"
    printf '#!/bin/sh\nprintf "%%s\\n" "$ hurmo %s"\nexport PATH\n"%s" %s\ntouch "%s"\nsleep 30\n' \
        "$*" "$hurmo" "$*" "$work/done" >"$work/run.sh"
    chmod +x "$work/run.sh"
    DISPLAY=$display xterm -u8 -fa 'DejaVu Sans Mono' -fs 10 -geometry 159x46+0+0 \
        -bg '#f4f4f0' -fg '#1c1c1c' -e "$work/run.sh" &
    local terminal=$!
    for _ in $(seq 120); do
        [ ! -e "$work/done" ] || break
        sleep 1
    done
    sleep 1
    DISPLAY=$display import -window root "$shots/$name.png"
    kill $terminal
    wait $terminal 2>/dev/null || true
}

shot audit audit --for print bollard.obj
shot prep prep heron.ply -o heron.stl --for print --to 50k
shot steps prep heron.ply --for harbour.toml --dry-run
shot mend mend lantern.obj -o mended.obj
shot fill fill heron.ply -o closed.ply --up-to 60
shot parts parts buoy.obj
shot decimate decimate heron.ply -o heron-20k.ply --to 20k

"$hurmo" prep heron.ply -o sheet.stl --for print --to 50k --picture "$shots/sheet.png" --force >/dev/null

"$hurmo" remesh bollard-sculpt.obj -o quads.obj --into quads --to 6k --picture "$shots/remesh.png" --force >/dev/null
"$hurmo" audit buoy.obj --picture "$shots/faults.png" --force >/dev/null || true
mv "$shots/faults-places.png" "$shots/places.png"
"$hurmo" picture buoy.obj -o "$shots/through.png" --show through --force >/dev/null
"$hurmo" reskin lantern.obj -o lantern-skin.ply --cell 0.5% >/dev/null
"$hurmo" bake lantern.obj lantern-skin.ply -o lantern-skin.glb >/dev/null
"$hurmo" picture lantern-skin.glb -o "$shots/bake.png" --show look --up z --force >/dev/null
"$hurmo" reskin buoy.obj -o skin.obj --cell 0.7% --picture "$shots/solid.png" --force >/dev/null
"$hurmo" boolean buoy.obj -o one.obj --as union --blend 1.5% --picture "$shots/boolean.png" --force >/dev/null
"$hurmo" cut heron-print.3mf -o to-print.3mf --bed 100x100x60mm --pegs 6mm --picture "$shots/cut.png" --force >/dev/null
"$hurmo" ladder heron.ply -o rungs --to 50%,10%,2k >/dev/null || true
mv rungs/ladder.png "$shots/ladder.png"
"$hurmo" decimate buoy.obj -o buoy-400.obj --to 400 >/dev/null || true
"$hurmo" compare buoy.obj buoy-400.obj --picture "$shots/compare.png" --force >/dev/null
