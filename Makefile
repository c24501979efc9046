# Two commands are enough: `make demo` and `make test`.
GO ?= go

.PHONY: demo test build check bench load soak screenshots vendor fuzz litestream

demo: ## serve a fresh copy of the demo on http://127.0.0.1:8080
	$(GO) run ./cmd/cavix demo

test: chromium litestream ## every test, browser ones too: those first, since they mostly wait, and the others run beside them
	GOGC=1500 $(GO) test -vet=off -timeout 20m ./web ./...

.PHONY: chromium
chromium: ## install Chromium's headless shell from Debian's packages where it is missing; a whole Chromium serves too, but slower
	@command -v chromium-headless-shell >/dev/null 2>&1 || \
	  { command -v apt-get >/dev/null 2>&1 && SUDO=$$( [ "$$(id -u)" = 0 ] || echo sudo ) && \
	    $$SUDO apt-get update -qq && $$SUDO apt-get install -y -qq --no-install-recommends chromium-headless-shell; } || \
	  command -v chromium >/dev/null 2>&1 || command -v google-chrome >/dev/null 2>&1 || \
	  { echo "Chromium is needed for the browser tests; please install it."; exit 1; }

# The replication that docs/keeping.md describes; a test replicates with it.
LITESTREAM = github.com/benbjohnson/litestream/cmd/litestream@v0.5.18
litestream: ## install litestream where it is missing
	@command -v litestream >/dev/null 2>&1 || test -x "$$($(GO) env GOPATH)/bin/litestream" || \
	  CGO_ENABLED=0 $(GO) install $(LITESTREAM)

soak: ## 30 minutes of a class at work on a server that is killed, held and filled; the report is written to docs/soak.md
	CAVIX_SOAK=30m CAVIX_SOAK_REPORT=$(CURDIR)/docs/soak.md $(GO) test -count=1 -v -run TestSoak -timeout 60m ./cmd/cavix

build: ## one static binary in bin/
	CGO_ENABLED=0 $(GO) build -trimpath -o bin/cavix ./cmd/cavix

check: ## vet, format, static checks, texts in the catalogues, and that everything is called
	$(GO) vet ./...
	@test -z "$$(gofmt -l .)" || { echo "not gofmt'ed:"; gofmt -l .; exit 1; }
	@long=$$(git ls-files '*.go' | xargs expand -t 4 | LC_ALL=C.UTF-8 grep -nE '^.{121,}' || true); \
	  test -z "$$long" || { echo "lines of more than 120 columns:"; echo "$$long"; exit 1; }
	@long=$$(git ls-files 'web/*.html' 'web/static/*.css' 'web/static/*.js' ':!web/static/vendor' | xargs grep -nE '^.{141,}' || true); \
	  test -z "$$long" || { echo "lines of more than 140 columns:"; echo "$$long"; exit 1; }
	$(GO) tool staticcheck ./...
	$(GO) run ./cmd/texts
	@dead=$$($(GO) tool deadcode ./cmd/cavix); test -z "$$dead" || { echo "nothing calls:"; echo "$$dead"; exit 1; }

bench: ## speed and memory of the core, the figures and a submission
	$(GO) test -run '^$$' -bench . -benchmem ./core/... ./figure ./transfer/... ./web

load: ## all that is measured, as a table, each line as it comes, compared with the last run on this machine
	$(GO) run ./cmd/load

FUZZ ?= 60s
fuzz: ## a minute of each fuzz target; FUZZ=10m for more
	@grep -ro --include='*_test.go' '^func Fuzz[A-Za-z]*' . | while IFS=: read -r file name; do \
	  $(GO) test -run '^$$' -fuzz "^$${name#func }$$" -fuzztime $(FUZZ) "./$$(dirname "$$file")" || exit 1; done

screenshots: chromium ## docs/screenshots/ anew from the demo data; the page on paper needs poppler-utils too
	CAVIX_SCREENSHOTS=$(CURDIR)/docs/screenshots $(GO) test -count=1 -run TestScreenshots ./web

vendor: ## fonts, styles and scripts anew from npm
	./web/static/vendor/refresh.sh
