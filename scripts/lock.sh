#!/usr/bin/env bash
# Lock the Python packages anew, with uv: what the product needs, and beside it what tests and measurements need.
# Of two packages only the files that they carry are used (a face detector's model, test photographs), so what their
# code needs stays out.
set -euo pipefail
cd "$(dirname "$0")/.."
lock() {
  local arguments=(--generate-hashes --no-header --no-annotate --python-version 3.11 --quiet -o "$1") each
  for each in imageio imageio-ffmpeg lazy-loader networkx opencv-python tqdm "${@:2}"; do arguments+=(--no-emit-package "$each"); done
  printf '%s\n' "${arguments[@]}"
}
mapfile -t product < <(lock requirements.lock scikit-image scipy)
mapfile -t tools < <(lock requirements-dev.lock)
uv pip compile pyproject.toml "${product[@]}" >/dev/null
uv pip compile pyproject.toml --group dev -c requirements.lock "${tools[@]}" >/dev/null
