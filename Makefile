# Jade Gate. "make demo" builds and starts the application with demo data;
# "make test" installs what the tests need and runs them.
SHELL := /bin/bash
WEB := web/node_modules/.installed
UI := internal/webui/dist/index.html
BIN := bin/jadegate
STATICCHECK := go tool -modfile=tools/go.mod staticcheck
GO_FILES := $(shell find cmd core internal -name '*.go' -o -path '*/sheets/*' -type f -o -path '*/rules/*.yaml' -o -name '*.sql') go.mod go.sum
WEB_FILES := $(shell find web/src web/public -type f) web/index.html web/vite.config.ts

.PHONY: build demo serve test lint bench api docs browser clean

build: $(BIN)

$(WEB): web/package.json web/package-lock.json web/.npmrc
	cd web && npm ci --no-audit --no-fund && touch node_modules/.installed

$(UI): $(WEB) $(WEB_FILES)
	cd web && npm run --silent build

$(BIN): $(UI) $(GO_FILES)
	go build -o $(BIN) ./cmd/jadegate

demo: build
	$(BIN) demo

serve: build
	$(BIN) serve

# The browser that the end-to-end tests drive, and the readers of the PDFs. Where nothing can
# be installed, a Chromium that is there does as well, only slower.
browser:
	@if ! command -v chromium-headless-shell >/dev/null || ! command -v pdftotext >/dev/null || ! command -v qpdf >/dev/null; then \
		SUDO=; [ "$$(id -u)" = 0 ] || SUDO=sudo; \
		{ $$SUDO apt-get update -qq && $$SUDO apt-get install -y -qq --no-install-recommends chromium-headless-shell poppler-utils qpdf; } || \
		{ command -v chromium && command -v pdftotext && command -v qpdf; } >/dev/null; \
	fi

# The data base server that the tests of several servers start for themselves.
.PHONY: postgres
postgres:
	@if ! command -v pg_ctl >/dev/null && ! ls /usr/lib/postgresql/*/bin/pg_ctl >/dev/null 2>&1; then \
		SUDO=; [ "$$(id -u)" = 0 ] || SUDO=sudo; \
		$$SUDO apt-get update -qq && $$SUDO apt-get install -y -qq --no-install-recommends postgresql; \
	fi

test: build browser postgres
	go test -timeout 75m ./...

# The client is generated from the server's own description.
api: $(WEB)
	go run ./cmd/jadegate openapi > docs/openapi.json
	cd web && npm run --silent api

# What is written from the code: checks, calculations, schemas, house policy, all words.
docs: build
	$(BIN) docs .
	go run ./internal/docs/packages > docs/architecture.md
	go run ./internal/docs/words > docs/words.pot

lint: $(WEB) build
	@test -z "$$(gofmt -l cmd core internal e2e)" || { gofmt -l cmd core internal e2e; echo "run gofmt"; exit 1; }
	go vet ./...
	$(STATICCHECK) ./...
	cd web && npm run --silent lint && npm run --silent types
	@tmp=$$(mktemp -d) && $(BIN) openapi > $$tmp/openapi.json && \
		diff -q $$tmp/openapi.json docs/openapi.json >/dev/null || { echo "docs/openapi.json is stale: run make api"; exit 1; }
	@tmp=$$(mktemp -d) && (cd web && npx --no-install openapi-typescript ../docs/openapi.json -o $$tmp/schema.ts >/dev/null 2>&1) && \
		diff -q $$tmp/schema.ts web/src/api/schema.ts >/dev/null || { echo "web/src/api/schema.ts is stale: run make api"; exit 1; }

	@tmp=$$(mktemp -d) && $(BIN) docs $$tmp && (cd $$tmp && find . -type f) | while read f; do \
		cmp -s $$tmp/$$f $$f || { echo "$$f is stale: run make docs"; exit 1; }; done
	@go run ./internal/docs/packages | cmp -s - docs/architecture.md || { echo "docs/architecture.md is stale: run make docs"; exit 1; }
	@go run ./internal/docs/words | cmp -s - docs/words.pot || { echo "docs/words.pot is stale: run make docs"; exit 1; }

# By hand: half an hour of fifty people on a server that is killed every two minutes.
.PHONY: soak
soak: build
	go run ./internal/load --soak $(BIN) --people 50 --for 30m --kill-every 2m

bench: build browser
	go test -run '^$$' -bench . -benchtime 1s ./core/... ./internal/... | grep -v 'no test files'
	go test -run '^$$' -bench . -benchtime 1x ./e2e

# Each importer for a minute, with a limit on memory; what is found is kept in testdata.
.PHONY: fuzz
FUZZTIME := 60s
fuzz:
	@for t in core/cutoff:FuzzParse core/limits:FuzzRoad core/ride:FuzzGPX core/ledger:FuzzReadCSV core/inspection:FuzzEntry core/calc:FuzzCalculations \
		internal/yamldoc:FuzzRead internal/picture:FuzzMake internal/bundle:FuzzUnpack internal/instruments:FuzzLine; do \
		echo "$$t"; GOMEMLIMIT=512MiB go test -run '^$$' -fuzz "^$${t#*:}$$" -fuzztime $(FUZZTIME) -fuzzminimizetime 10x ./$${t%:*} || exit 1; done

# Every mutant of the verdict, and the table of figures.
.PHONY: mutants
mutants:
	JG_MUTANTS=0 JG_MUTANTS_TABLE=$(CURDIR)/docs/mutants.md go test -count=1 -timeout 60m -v ./internal/mutants

clean:
	rm -rf bin internal/webui/dist/assets internal/webui/dist/index.html web/node_modules

# The pictures of the README, made from the demo data.
.PHONY: screenshots
screenshots: build browser
	mkdir -p docs/screenshots && JG_SHOTS=$(CURDIR)/docs/screenshots go test -count=1 -run TestScreenshots ./e2e
