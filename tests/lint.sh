#!/usr/bin/env bash
# Style, types, import rules, and that what is generated is current. Prints only what is wrong. One half alone: "core", "face".
set -euo pipefail
cd "$(dirname "$0")/.."
export PATH="$PWD/.venv/bin:$PATH"
scratch=$(mktemp -d)
trap 'rm -rf "$scratch"' EXIT
export SUNLATCH_DATA="$scratch/data"

core() {
    echo "ruff";          ruff check -q .; ruff format -q --check .
    echo "mypy";          mypy --no-error-summary
    echo "import rules";  lint-imports >"$scratch/imports" || { cat "$scratch/imports"; exit 1; }
    echo "migrations";    python manage.py makemigrations --check --dry-run -v0
    echo "API schema";    python manage.py export_openapi_schema --api studio.api.api --indent 1 | diff -q - docs/openapi.json \
                            || { echo "docs/openapi.json is not current: make api"; exit 1; }
    echo "scene schema";  python -m sunlatch.cli schema | diff -q - docs/scene.schema.json \
                            || { echo "docs/scene.schema.json is not current: make api"; exit 1; }
}

face() {
    cd web
    echo "eslint, prettier"; npm run --silent lint
    echo "vue-tsc";       npm run --silent types
    cp src/api/generated.ts "$scratch/generated.ts"
    echo "API types";     npx --no-install openapi-typescript ../docs/openapi.json -o "$scratch/fresh.ts" >/dev/null 2>&1
    diff -q "$scratch/fresh.ts" "$scratch/generated.ts" || { echo "generated.ts is not current: make api"; exit 1; }
}

case "${1:-all}" in
    core) core ;;
    face) face ;;
    *) core; face ;;
esac
