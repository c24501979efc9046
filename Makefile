# Two commands are enough: `make demo` and `make test`.
GO ?= go

.PHONY: demo test build check bench load screenshots vendor fuzz

demo: ## serve a fresh copy of the demo on http://127.0.0.1:8080
	$(GO) run ./cmd/cavix demo

test: chromium ## every test, browser ones too
	$(GO) test -timeout 20m ./...

.PHONY: chromium
chromium: ## install Chromium from Debian's packages where it is missing
	@command -v chromium >/dev/null 2>&1 || command -v google-chrome >/dev/null 2>&1 || \
	  if command -v apt-get >/dev/null 2>&1; then \
	    SUDO=$$( [ "$$(id -u)" = 0 ] || echo sudo ); \
	    $$SUDO apt-get update -qq && $$SUDO apt-get install -y -qq --no-install-recommends chromium; \
	  else echo "Chromium is needed for the browser tests; please install it."; exit 1; fi

build: ## one static binary in bin/
	CGO_ENABLED=0 $(GO) build -trimpath -o bin/cavix ./cmd/cavix

check: ## vet, format and static checks
	$(GO) vet ./...
	@test -z "$$(gofmt -l .)" || { echo "not gofmt'ed:"; gofmt -l .; exit 1; }
	$(GO) tool staticcheck ./...

bench: ## speed and memory of the core, the figures and a submission
	$(GO) test -run '^$$' -bench . -benchmem ./core/... ./figure ./transfer/... ./web

load: ## submissions beside a plain handler, a class that answers at once, thousands of open streams, a term of 300 students
	$(GO) test -run '^$$' -bench 'BenchmarkSubmissions|BenchmarkRounds|BenchmarkStreams|BenchmarkTerm|BenchmarkThousandPeople' -benchtime 5s ./web

fuzz: ## a minute of each fuzz target
	$(GO) test -run '^$$' -fuzz FuzzReadTyped -fuzztime 60s ./core/length
	$(GO) test -run '^$$' -fuzz FuzzParse -fuzztime 60s ./core/instrument
	$(GO) test -run '^$$' -fuzz FuzzMark -fuzztime 60s ./core/kinds
	$(GO) test -run '^$$' -fuzz FuzzMarkBatch -fuzztime 60s ./transfer
	$(GO) test -run '^$$' -fuzz FuzzReadCourse -fuzztime 60s ./transfer
	$(GO) test -run '^$$' -fuzz FuzzSay -fuzztime 60s ./core/words

screenshots: chromium ## docs/screenshots/ anew from the demo data; the page on paper needs poppler-utils too
	CAVIX_SCREENSHOTS=$(CURDIR)/docs/screenshots $(GO) test -count=1 -run TestScreenshots ./web

vendor: ## fonts, styles and scripts anew from npm
	./web/static/vendor/refresh.sh
