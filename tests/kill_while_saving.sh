#!/usr/bin/env bash
# Kills the program while it saves, a thousand times: the file is always the whole old or the whole new one, and nothing is left
# beside it after the next save.
#   tests/kill_while_saving.sh build/release/src/cli/level-conduit-cli [times]
set -euo pipefail
program=$(realpath "$1")
times=${2:-1000}
here=$(dirname "$(realpath "$0")")
folder=$(mktemp -d)
trap 'rm -rf "$folder"' EXIT
cd "$folder"
cp "$here/../samples/kestrel-fell.lconduit" model.lconduit
"$program" solve model.lconduit --apply-remedy 1 --write new.lconduit > /dev/null || test $? -le 2
cp model.lconduit out.lconduit
old=$(md5sum < model.lconduit)
new=$(md5sum < new.lconduit)
seenOld=0 seenNew=0
for i in $(seq "$times"); do
  cp model.lconduit out.lconduit
  "$program" solve model.lconduit --apply-remedy 1 --write out.lconduit > /dev/null 2>&1 &
  pid=$!
  sleep "0.0$(printf '%03d' $((RANDOM % 400)))"
  kill -9 $pid 2> /dev/null || true
  wait $pid 2> /dev/null || true
  now=$(md5sum < out.lconduit)
  if [ "$now" = "$old" ]; then seenOld=$((seenOld + 1))
  elif [ "$now" = "$new" ]; then seenNew=$((seenNew + 1))
  else echo "kill $i left a broken file"; exit 1; fi
done
"$program" solve model.lconduit --apply-remedy 1 --write out.lconduit > /dev/null || test $? -le 2
left=$(find . -name '*.part' | wc -l)
[ "$left" = 0 ] || { echo "$left unfinished files are left"; exit 1; }
echo "$times kills: $seenOld times the old file, $seenNew times the new one, none broken, nothing left beside"
