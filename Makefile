# Two commands do everything on a fresh machine: make demo and make test.
GO ?= go
BIN := bin/lucidletter
UI_SOURCES := $(shell find ui/src ui/public ui/index.html ui/vite.config.ts ui/package.json -type f 2>/dev/null)
GO_SOURCES := $(shell find cmd core internal ui/embed.go go.mod go.sum -type f 2>/dev/null)

.PHONY: demo build bench walk year test test-go test-ui test-e2e check api screenshots format clean

## Start the program with the sample workspace, kept in demo-data.
demo: build
	@test -d demo-data || echo "Filling the sample workspace; the address to open follows."
	./$(BIN) demo --data demo-data

build: $(BIN)

$(BIN): $(GO_SOURCES) ui/dist/index.html
	@echo "Step 3 of 3: compiling the program. The first time this is the longest step, a few minutes with nothing to see."
	$(GO) build -trimpath -ldflags "-s -w" -tags nomsgpack -o $@ ./cmd/lucidletter

ui/node_modules/.npm-stamp: ui/package-lock.json
	@echo "Step 1 of 3: installing what the screens are built with."
	cd ui && npm ci
	@touch $@

ui/dist/index.html: ui/node_modules/.npm-stamp $(UI_SOURCES)
	@echo "Step 2 of 3: building the screens, some ten seconds."
	cd ui && npx vite build
	@touch $@

## Run every test; installs what they need.
test: test-go test-ui test-e2e

test-go:
	$(GO) test ./...

test-ui: ui/node_modules/.npm-stamp
	cd ui && node node_modules/typescript7/bin/tsc --noEmit

e2e/node_modules/.npm-stamp: e2e/package-lock.json
	cd e2e && npm ci
	@touch $@

test-e2e: build e2e/node_modules/.npm-stamp
	@command -v chromium >/dev/null && perl -MMail::Thread -MEmail::Simple -e 1 2>/dev/null || scripts/install-for-tests
	cd e2e && npx playwright test

## Measure, side by side in one run; make bench ONLY=<name> runs one.
bench:
	cd bench && $(GO) run . -only "$(ONLY)"

## Formatting, vet, lint, types, generated files up to date.
check: ui/node_modules/.npm-stamp e2e/node_modules/.npm-stamp
	scripts/check

## Write the description of the API and the types made from it.
api: ui/node_modules/.npm-stamp
	$(GO) run ./cmd/lucidletter openapi > openapi.json
	cd ui && npx openapi-typescript ../openapi.json -o src/api/schema.d.ts

## Make the pictures in docs/screenshots from the sample workspace.
screenshots: build e2e/node_modules/.npm-stamp
	@command -v chromium >/dev/null && perl -MMail::Thread -MEmail::Simple -e 1 2>/dev/null || scripts/install-for-tests
	cd e2e && npx playwright test --config playwright.screenshots.ts

format: ui/node_modules/.npm-stamp e2e/node_modules/.npm-stamp
	gofmt -w cmd core internal bench ui/embed.go
	cd ui && npx biome check --write .
	cd e2e && npx biome check --write .

clean:
	rm -rf bin demo-data ui/dist/assets ui/dist/index.html

## Walk at random through the use cases for some minutes: make walk MINUTES=5 SEED=100.
MINUTES ?= 5
SEED ?= 1000
walk:
	LUCID_WALK_MINUTES=$(MINUTES) LUCID_WALK_SEED=$(SEED) $(GO) test ./internal/walk -run TestWalk -timeout 0 -v

## A team of 20 with 5,000 people writes for a year, in some minutes: make year DAYS=365.
DAYS ?= 365
PEOPLE ?= 5000
TEAM ?= 20
year:
	LUCID_YEAR_DAYS=$(DAYS) LUCID_YEAR_PEOPLE=$(PEOPLE) LUCID_YEAR_TEAM=$(TEAM) $(GO) test ./internal/walk -run TestYear -count=1 -timeout 0 -v
