#!/usr/bin/env bash
# Copies the fonts, styles and scripts that the pages use from their npm packages into this folder, each
# with its licence; of Bootstrap only the parts that bootstrap.scss names. The cuts of the font for paper are made in
# figure/fonts. Needs npm and fonttools with brotli (python3-fonttools, python3-brotli); the server never does.
set -euo pipefail
here=$(cd "$(dirname "$0")" && pwd)
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cd "$work"
npm init -y >/dev/null
npm install --silent bootstrap@5.3 sass@1 @alpinejs/csp@3 @alpinejs/morph@3 \
  @alpinejs/persist@3 @alpinejs/sort@3 @imacrayon/alpine-ajax@0.12 @fontsource-variable/archivo@5 @fontsource-variable/spline-sans-mono@5
m=node_modules
npx sass --quiet --no-source-map --style=compressed --load-path=$m "$here/bootstrap.scss" "$here/bootstrap.css"
install -m 644 $m/bootstrap/LICENSE "$here/bootstrap.LICENSE"
install -m 644 $m/@alpinejs/csp/dist/cdn.min.js "$here/alpine-csp.min.js"
for p in morph persist sort; do install -m 644 "$m/@alpinejs/$p/dist/cdn.min.js" "$here/alpine-$p.min.js"; done
install -m 644 $m/@imacrayon/alpine-ajax/dist/cdn.min.js "$here/alpine-ajax.min.js"
install -m 644 $m/@imacrayon/alpine-ajax/LICENSE.md "$here/alpine-ajax.LICENSE"
install -m 644 $m/@fontsource-variable/archivo/files/archivo-latin-standard-normal.woff2 "$here/archivo.woff2"
install -m 644 $m/@fontsource-variable/archivo/LICENSE "$here/archivo.LICENSE"
install -m 644 $m/@fontsource-variable/spline-sans-mono/files/spline-sans-mono-latin-wght-normal.woff2 "$here/spline-sans-mono.woff2"
install -m 644 $m/@fontsource-variable/spline-sans-mono/LICENSE "$here/spline-sans-mono.LICENSE"
cuts="$here/../../../figure/fonts"
install -m 644 $m/@fontsource-variable/archivo/LICENSE "$cuts/LICENSE"
cut() { /usr/bin/python3 "$cuts/cut.py" "$m/@fontsource-variable/archivo/files/archivo-@@-standard-normal.woff2" "$cuts/$1.ttf" "wght=$2" "wdth=$3"; }
cut archivo 420 100
cut archivo-bold 650 100
cut archivo-narrow 600 82
for p in bootstrap @alpinejs/csp @alpinejs/morph @alpinejs/persist @alpinejs/sort @imacrayon/alpine-ajax @fontsource-variable/archivo @fontsource-variable/spline-sans-mono; do
  node -p "const p=require('./$m/$p/package.json'); p.name+' '+p.version+' ('+p.license+')'"
done > "$here/VERSIONS"
