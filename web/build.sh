#!/usr/bin/env bash
# Builds the front end into the folder named. Called by Maven.
set -euo pipefail
out=$1
cd "$(dirname "$0")"
# react-router and Vite want a newer Node than Debian has; the npm package carries the binary
local_node="$PWD/../var/node/bin"
[ -x "$local_node/node" ] && PATH="$local_node:$PATH"
if [ ! -d node_modules ] || [ package-lock.json -nt node_modules/.package-lock.json ]; then
  npm ci --no-audit --no-fund --loglevel=error
fi
stamp=node_modules/.built
if [ -f "$out/index.html" ] && [ -f "$stamp" ] && [ -z "$(find src public index.html openapi.json package.json vite.config.ts eslint.config.js .prettierrc.json -newer "$stamp" 2>/dev/null | head -1)" ]; then
  exit 0
fi
npm run --silent build
rm -rf "$out"
mkdir -p "$out"
cp -r dist/. "$out"
touch "$stamp"
