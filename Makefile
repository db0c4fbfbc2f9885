# Two commands matter: make demo, make test.
PORT ?= 8080
DATA ?= data
export PORT DATA

BIN := bin/upper-lantern
WEB := $(shell find web/src web/public web/*.html web/*.ts -type f 2>/dev/null)
GO  := $(shell find cmd internal demo web/files.go go.mod go.sum -type f 2>/dev/null)

.PHONY: demo run test race build check-web check-go setup-tests screenshots generate fuzz clean

# Without espeak-ng the demo runs too; calls just cannot be heard beforehand. Without
# Apertium its translation service knows only its own phrases.
demo: build
	@scripts/debian espeak-ng apertium apertium-eng-spa apertium-es-pt || true
	@$(BIN) demo

# The same for one's own data: an empty folder is set up on a page.
run: build
	@$(BIN) serve

build: $(BIN)

$(BIN): $(GO) web/dist/index.html
	go build -o $@ ./cmd/upper-lantern

web/node_modules/.package-lock.json: web/package.json web/package-lock.json
	cd web && npm ci --no-audit --no-fund
	@touch $@

web/dist/index.html: $(WEB) web/node_modules/.package-lock.json web/src/api/schema.d.ts
	scripts/schema check
	cd web && npm run --silent build

test: setup-tests build check-web check-go
	go test ./...

# What works at once is tried for data races: the lanes, and what is kept together.
race:
	go test -race -run 'Stop|Emergency|SmallMessage|OneChannel|Together|Group' ./internal/dispatch ./internal/batch

check-web: web/dist/index.html
	cd web && npm run --silent lint && npm run --silent types && npm run --silent size && npm run --silent test

check-go: build
	@files=$$(gofmt -l cmd internal demo e2e web/*.go); test -z "$$files" || { echo "gofmt: $$files"; exit 1; }
	scripts/lines
	go vet ./...
	go tool staticcheck ./...

# The browser journeys need Chromium.
setup-tests:
	scripts/debian chromium espeak-ng apertium apertium-eng-spa apertium-es-pt

screenshots: setup-tests build
	scripts/debian chromium fonts-noto-core fonts-noto-cjk
	go run ./e2e/shots docs/screenshots

# What is generated and checked in: queries, the API's description and its types.
generate: web/node_modules/.package-lock.json
	cd internal/store && go run github.com/sqlc-dev/sqlc/cmd/sqlc@v1.31.1 generate
	scripts/schema write
	go run ./cmd/upper-lantern roster demo

# Every fuzz target there is, one after the other, each for FUZZ.
FUZZ ?= 30s
fuzz:
	scripts/fuzz $(FUZZ)

clean:
	rm -rf bin web/node_modules
	find web/dist -mindepth 1 ! -name .gitkeep -delete
