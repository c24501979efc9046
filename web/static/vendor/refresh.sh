#!/usr/bin/env bash
# Copies the fonts, styles and scripts that the pages use from their npm packages into this folder, each with its
# licence. Of Bootstrap it keeps the parts that bootstrap.scss names, and of these the rules for classes that occur in the
# pages: a page that uses another class of Bootstrap's needs this anew. The fonts are cut by script and by use. The cuts of
# the font for paper are made in figure/fonts. Needs npm and fonttools with brotli (python3-fonttools, python3-brotli); the
# server never does.
set -euo pipefail
here=$(cd "$(dirname "$0")" && pwd)
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cd "$work"
npm init -y >/dev/null
npm install --silent bootstrap@5.3 sass@1 purgecss@8 @alpinejs/csp@3 @alpinejs/morph@3 \
  @alpinejs/persist@3 @alpinejs/sort@3 @imacrayon/alpine-ajax@0.12 @fontsource-variable/archivo@5 @fontsource-variable/spline-sans-mono@5
m=node_modules
npx sass --quiet --no-source-map --style=compressed --load-path=$m "$here/bootstrap.scss" whole.css
npx purgecss --css whole.css --content "$here/../../**/*.html" "$here/../../**/*.go" "$here/../*.js" "$here/*.js" --output "$here/bootstrap.css"
# Two rules are slow on long tables: one restyles the whole table for each row that is added (theme.css has another), the
# other computes two more styles for every element, though none of our own needs it.
sed -i 's/legend+\*{clear:left}//; s/\*,\*::before,\*::after{box-sizing/*{box-sizing/' "$here/bootstrap.css"
if grep -q 'legend+\*\|\*::before' "$here/bootstrap.css"; then echo "Bootstrap has changed" >&2; exit 1; fi
install -m 644 $m/bootstrap/LICENSE "$here/bootstrap.LICENSE"
install -m 644 $m/@alpinejs/csp/dist/cdn.min.js "$here/alpine-csp.min.js"
# Alpine reads every global as it starts, so that expressions cannot use them. Most are interfaces, which a browser makes when
# they are read: they are looked up by their name instead. The size of the window is left out, since to read it would force
# a layout. The pattern of directives is made once.
sed -i 's/if(e==="styleMedia"||/if(\/^((inner|scroll|page)(Width|Height|[XY](Offset)?)|[A-Z].*[a-z].*)$\/.test(e)||e==="styleMedia"||/
  s/if(\([A-Za-z]*\.has(t)\))throw new Error("Accessing global/if(\1||globalThis[typeof t=="function"?t.name:t[Symbol.toStringTag]]===t)throw new Error("Accessing global/
  s/\([A-Za-z]*\)=()=>new RegExp(/\1=()=>\1.made??=new RegExp(/' "$here/alpine-csp.min.js"
for change in "(inner|scroll|page)" "t.name:t" ".made??=new"; do grep -qF "$change" "$here/alpine-csp.min.js"; done
for p in morph persist sort; do install -m 644 "$m/@alpinejs/$p/dist/cdn.min.js" "$here/alpine-$p.min.js"; done
install -m 644 $m/@imacrayon/alpine-ajax/dist/cdn.min.js "$here/alpine-ajax.min.js"
install -m 644 $m/@imacrayon/alpine-ajax/LICENSE.md "$here/alpine-ajax.LICENSE"
# What nearly every page writes comes in a small file; other letters only where a page has them, by the ranges in theme.css.
common=20-7E,A0,B0-B1,B7,D7,2013-2014,2018-2019,201C-201D,2026,2212
accents=A1-AF,B2-B6,B8-D6,D8-FF,131,152-153,2BC,2C6,2DA,2DC,201A,201E,2022,2032-2033,2039-203A,20AC,2122,2191,2193
latin=100-130,132-151,154-17F,18F,192,19D,1A0-1A1,1AF-1B0,1C4-1DC,1E6-1E7,1EA-1EB,1FA-21B,22A-22D,230-233,237,259,1E24-1E25,1E62-1E63,1E6C-1E6D,1E80-1E85,1E9E,1EF2-1EF9
digits=20-3F,A0,B0-B1,D7,2032-2033,2212
letters=40-7E,A1-AF,B2-D6,D8-FF,2013-2014,2018-2019,201C-201D,2026
archivo() { /usr/bin/python3 "$here/cut.py" "$m/@fontsource-variable/archivo/files/archivo-$1-standard-normal.woff2" "$here/$2.woff2" "${@:3}"; }
archivo latin archivo $common wght=400:650 wdth=100
archivo latin archivo-accents $accents wght=400:650 wdth=100
archivo latin-ext archivo-latin $latin wght=400:650 wdth=100
archivo latin archivo-narrow $digits wght=600 wdth=82
archivo latin archivo-narrow-letters $letters wght=600 wdth=82
for part in digits letters; do
  /usr/bin/python3 "$here/cut.py" $m/@fontsource-variable/spline-sans-mono/files/spline-sans-mono-latin-wght-normal.woff2 \
    "$here/spline-sans-mono-$part.woff2" ${!part} wght=500
done
install -m 644 $m/@fontsource-variable/archivo/LICENSE "$here/archivo.LICENSE"
install -m 644 $m/@fontsource-variable/spline-sans-mono/LICENSE "$here/spline-sans-mono.LICENSE"
cuts="$here/../../../figure/fonts"
install -m 644 $m/@fontsource-variable/archivo/LICENSE "$cuts/LICENSE"
paper() { /usr/bin/python3 "$cuts/cut.py" "$m/@fontsource-variable/archivo/files/archivo-@@-standard-normal.woff2" "$cuts/$1.ttf" "wght=$2" "wdth=$3"; }
paper archivo 420 100
paper archivo-bold 650 100
paper archivo-narrow 600 82
for p in bootstrap @alpinejs/csp @alpinejs/morph @alpinejs/persist @alpinejs/sort @imacrayon/alpine-ajax @fontsource-variable/archivo @fontsource-variable/spline-sans-mono; do
  node -p "const p=require('./$m/$p/package.json'); p.name+' '+p.version+' ('+p.license+')'"
done > "$here/VERSIONS"
