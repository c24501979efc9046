#!/usr/bin/env bash
# Makes the fonts of scripts that Archivo lacks anew, from npm and a Debian package, cut to the letters of those scripts. Needs npm,
# apt and fonttools (python3-fonttools); the server never does.
set -euo pipefail
here=$(cd "$(dirname "$0")" && pwd)
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cd "$work"
npm init -y >/dev/null
npm install --silent @expo-google-fonts/noto-sans@0.4 @expo-google-fonts/noto-sans-{hebrew,arabic,devanagari,kr}
apt-get download -qq fonts-droid-fallback
dpkg-deb -x fonts-droid-fallback*.deb droid
g=node_modules/@expo-google-fonts
blanks=U+20,U+A0,U+200B-200F,U+2066-2069 # a run between letters keeps their font
cut() { /usr/bin/python3 -m fontTools.subset "$1" --unicodes="$2" --layout-features='*' --no-hinting --output-file="$here/$3.ttf"; }
cut $g/noto-sans/400Regular/NotoSans_400Regular.ttf \
  $blanks,U+0300-036F,U+0370-03FF,U+0400-052F,U+1C80-1C88,U+1F00-1FFF,U+25CC,U+2DE0-2DFF,U+A640-A69F greek-cyrillic
cut $g/noto-sans-hebrew/400Regular/NotoSansHebrew_400Regular.ttf '*' hebrew
cut $g/noto-sans-arabic/400Regular/NotoSansArabic_400Regular.ttf '*' arabic
cut $g/noto-sans-devanagari/400Regular/NotoSansDevanagari_400Regular.ttf '*' devanagari
cut $g/noto-sans-kr/400Regular/NotoSansKR_400Regular.ttf $blanks,U+1100-11FF,U+3130-318F,U+AC00-D7A3 hangul
cut droid/usr/share/fonts/truetype/droid/DroidSansFallbackFull.ttf \
  $blanks,U+2E80-2FDF,U+3000-30FF,U+3190-31BF,U+31C0-31FF,U+4E00-9FFF,U+F900-FAFF,U+FF00-FFEF han-kana
cp $g/noto-sans/LICENSE_FONT OFL.LICENSE
cp OFL.LICENSE "$here/OFL.LICENSE"
cp droid/usr/share/doc/fonts-droid-fallback/copyright "$here/han-kana.LICENSE"
