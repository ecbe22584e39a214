#!/usr/bin/env bash
# Everything that must hold before anything lands; ends with pytest's own closing line.
set -euo pipefail
cd "$(dirname "$0")/.."
if [ ! -x /usr/bin/chromium ]; then
    apt-get update -qq && apt-get install -y -qq --no-install-recommends chromium >/dev/null
fi
# compiled kernels remember their own file only, not what they inline from others
find sunlatch fieldworld -name '*.nb[ic]' -delete
bash tests/lint.sh
.venv/bin/python -m sunlatch.cli warm
(cd web && npm run --silent test)
scratch=$(mktemp -d)
trap 'rm -rf "$scratch"' EXIT
export SUNLATCH_DATA="$scratch/data"
# two at a time, each file as a whole: what a file shares is made once
.venv/bin/python -m pytest -n 2 --dist loadfile "$@"
