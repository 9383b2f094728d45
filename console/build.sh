#!/usr/bin/env bash
# Builds the pages. Packages are installed anew only when the lock file changed.
set -euo pipefail
cd "$(dirname "$0")"
lock=$(cksum <package-lock.json)
if [ ! -d node_modules ] || [ "$(cat node_modules/.lock-seen 2>/dev/null || true)" != "$lock" ]; then
  npm ci --ignore-scripts --no-audit --no-fund
  printf '%s\n' "$lock" >node_modules/.lock-seen
fi
npm run build
