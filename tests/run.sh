#!/usr/bin/env bash
# Everything that must hold before anything lands; ends with pytest's own closing line.
set -euo pipefail
cd "$(dirname "$0")/.."
if [ ! -x /usr/bin/chromium ]; then
    apt-get update -qq && apt-get install -y -qq --no-install-recommends chromium >/dev/null
fi
# compiled kernels remember their own file only, not what they inline from others
find sunlatch fieldworld -name '*.nb[ic]' -delete
scratch=$(mktemp -d)
trap 'rm -rf "$scratch"' EXIT
# modules are compiled once for all processes, whatever the machine is set to
unset PYTHONDONTWRITEBYTECODE
# large arrays are given back to the system when they are done with, as in the studio (mallopt(3))
export MALLOC_MMAP_THRESHOLD_=$((4 << 20)) MALLOC_TRIM_THRESHOLD_=$((64 << 20))
# kernels are compiled, the core's and the coast's, while everything is read; then the face's own checks run beside the
# rest: browser tests wait more than they compute
(.venv/bin/python -m sunlatch.cli warm &&
    .venv/bin/python -c "from fieldworld.world import warm; warm('land'); warm('water')") >"$scratch/warm" 2>&1 &
warm=$!
(bash tests/lint.sh core && bash tests/lint.sh face && cd web && npm run --silent test) >"$scratch/read" 2>&1 &
read=$!
wait $warm || { cat "$scratch/warm"; exit 1; }
kill -0 $read 2>/dev/null || wait $read || { cat "$scratch/read"; exit 1; } # what is wrong so far is said at once
# three at a time on two cores, as browser tests wait more than they compute; each file as a whole: what a file shares is made once
SUNLATCH_DATA="$scratch/data" SUNLATCH_PYRAMIDS="$scratch/pyramids" TMPDIR="$scratch" .venv/bin/python -m pytest --basetemp "$scratch/pytest" -n 3 --dist loadfile --max-worker-restart 2 "$@" && tests=0 || tests=$?
wait $read || { cat "$scratch/read"; exit 1; }
exit $tests
