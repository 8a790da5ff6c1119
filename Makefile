# Two commands do everything on a fresh machine: make demo and make test.
GO ?= go
BIN := bin/lucidletter
UI_SOURCES := $(shell find ui/src ui/public ui/index.html ui/vite.config.ts ui/package.json -type f 2>/dev/null)
GO_SOURCES := $(shell find cmd core internal ui/embed.go go.mod go.sum -type f 2>/dev/null)

.PHONY: demo build bench test test-go test-ui test-e2e check api screenshots format clean

## Start the program with the sample workspace, kept in demo-data.
demo: build
	./$(BIN) demo --data demo-data

build: $(BIN)

$(BIN): $(GO_SOURCES) ui/dist/index.html
	$(GO) build -trimpath -o $@ ./cmd/lucidletter

ui/node_modules/.npm-stamp: ui/package-lock.json
	cd ui && npm ci
	@touch $@

ui/dist/index.html: ui/node_modules/.npm-stamp $(UI_SOURCES)
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
	@command -v chromium >/dev/null || scripts/install-chromium
	cd e2e && npx playwright test

## Measure, side by side in one run; make bench ONLY=<name> runs one.
bench:
	$(GO) run ./bench -only "$(ONLY)"

## Formatting, vet, lint, types, generated files up to date.
check: ui/node_modules/.npm-stamp e2e/node_modules/.npm-stamp
	scripts/check

## Write the description of the API and the types made from it.
api: ui/node_modules/.npm-stamp
	$(GO) run ./cmd/lucidletter openapi > openapi.json
	cd ui && npx openapi-typescript ../openapi.json -o src/api/schema.d.ts

## Make the pictures in docs/screenshots from the sample workspace.
screenshots: build e2e/node_modules/.npm-stamp
	@command -v chromium >/dev/null || scripts/install-chromium
	cd e2e && npx playwright test --config playwright.screenshots.ts

format: ui/node_modules/.npm-stamp e2e/node_modules/.npm-stamp
	gofmt -w cmd core internal bench ui/embed.go
	cd ui && npx biome check --write .
	cd e2e && npx biome check --write .

clean:
	rm -rf bin demo-data ui/dist/assets ui/dist/index.html
