#!/usr/bin/env bash
# Copy the pinned styles, icons, fonts and scripts from the npm packages into static.
set -euo pipefail
cd "$(dirname "$0")"
npm install --no-audit --no-fund --no-package-lock --silent
static=../src/morphe/web/shell/static
modules=node_modules
faces=../src/morphe/core/faces
mkdir -p "$static/vendor" "$static/fonts" "$faces"
sed '/sourceMappingURL/d' "$modules/bootstrap/dist/css/bootstrap.min.css" > "$static/vendor/bootstrap.min.css"
sed -E 's#url\("fonts/bootstrap-icons\.woff2[^"]*"\) format\("woff2"\),url\([^)]*\) format\("woff"\)#url("../fonts/bootstrap-icons.woff2") format("woff2")#' \
  "$modules/bootstrap-icons/font/bootstrap-icons.min.css" > "$static/vendor/bootstrap-icons.min.css"
cp "$modules/bootstrap-icons/font/fonts/bootstrap-icons.woff2" "$static/fonts/"
cp "$modules/idiomorph/dist/idiomorph.min.js" "$static/vendor/"
sed '/sourceMappingURL/d' "$modules/tus-js-client/dist/tus.min.js" > "$static/vendor/tus.min.js"
for face in next mono; do
  cp "$modules/@fontsource-variable/atkinson-hyperlegible-$face/files/atkinson-hyperlegible-$face-latin-wght-normal.woff2" "$faces/"
done
