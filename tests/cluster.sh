#!/bin/bash
# A run over 200 pictures in 8 parts under a real Slurm, with one node that dies in the middle: its parts are told, run
# again alone, and the folder is one machine's, byte for byte. Then the times with 1, 2 and 4 tasks at a time.
#
#   tests/cluster.sh BUILD [KILL-NODE START-NODE]
#
# Needs sbatch, squeue and scancel, with a cluster behind them; without one it says so and ends. KILL-NODE and START-NODE
# are commands that end a node as a power cut would, and start it again; without them a running task is killed instead.
set -euo pipefail
build=$1 kill_node=${2:-} start_node=${3:-}
cli=$(realpath "$build/cli/fexel-cli")
if ! command -v sbatch >/dev/null || ! sinfo -h >/dev/null 2>&1; then
  echo "There is no Slurm here; nothing was tried."
  exit 0
fi
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cd "$work"
"$cli" demo demo --quiet >/dev/null
mkdir photos
for i in $(seq -w 1 200); do cp demo/drying/frame-$((10#$i % 16 + 1)).tif "photos/p-$i.tif"; done
cat >turn.fexel.json <<'J'
{"fexel":1,"steps":[{"step":"rotate","degrees":7.5},{"step":"resize","width":900}]}
J

wait_for_job() {
  while squeue -h -j "$1" 2>/dev/null | grep -q .; do sleep 0.5; done
}
submit() { # FOLDER PARTS OUT [OPTION...]
  "$cli" submit --parts "$2" --folder "$1" --cpus 1 "${@:4}" --go --json -- apply turn.fexel.json photos --out "$3" |
    sed -n 's/.*"id": *"\([0-9]*\)".*/\1/p'
}

echo "200 pictures in 8 parts, a node lost in the middle"
id=$(submit job 8 results)
until [[ $(ls results 2>/dev/null | wc -l) -gt 40 ]]; do sleep 0.1; done
if [[ -n $kill_node ]]; then
  eval "$kill_node"
else
  victim=$(pgrep -f "fexel-cli apply.*--shard" | head -1)
  kill -9 "$victim"
fi
sleep 1
wait_for_job "$id"
"$cli" gather job && { echo "Nothing was lost: the test did not test it."; exit 1; }
("$cli" gather job --json || true) | grep -q '"part"' || { echo "The lost part is not told."; exit 1; }
[[ -z $start_node ]] || eval "$start_node"
again=$( ("$cli" gather job --go --json || true) | sed -n 's/.*"id": *"\([0-9]*\)".*/\1/p' | tail -1)
wait_for_job "$again"
"$cli" gather job
mv results parted
"$cli" apply turn.fexel.json photos --out results --journal results/turn.run.jsonl --quiet >/dev/null
diff -r results parted
echo "The folder is that of one machine: $(ls parted | wc -l) files."

for tasks in 1 2 4; do
  rm -rf results "job$tasks"
  id=$(submit "job$tasks" "$tasks" results)
  begin=$(date +%s.%N)
  wait_for_job "$id"
  end=$(date +%s.%N)
  "$cli" gather "job$tasks" >/dev/null
  printf '%d task(s) of one core: %.1f s\n' "$tasks" "$(echo "$end - $begin" | bc)"
done
