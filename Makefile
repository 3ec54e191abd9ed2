ADDR ?= 127.0.0.1:8470
DATA ?= data/demo
MODBUS ?= 127.0.0.1:5020
OPCUA ?= 127.0.0.1:4850
MQTT ?= 127.0.0.1:1893
# How many journeys run at a time; those that need the processors run alone.
BESIDE ?= 2
CHROMIUM := /usr/lib/chromium/chromium-headless-shell
WEB_SOURCES := $(shell find web/src web/public -type f 2>/dev/null) web/index.html web/vite.config.ts web/package.json

.PHONY: demo build quick lint test journeys shots bench types dist clean

demo: build
	bin/readyrail demo --addr $(ADDR) --data $(DATA) --modbus $(MODBUS) --opcua $(OPCUA) --mqtt $(MQTT)

build: web/dist/app/index.html
	go build -o bin/readyrail ./cmd/readyrail

web/node_modules/.installed: web/package.json web/package-lock.json
	cd web && npm ci --no-audit --no-fund --loglevel=error
	touch $@

web/dist/app/index.html: web/node_modules/.installed $(WEB_SOURCES)
	cd web && npm run build --silent
	touch $@

# The front end's types, made from the server's own description, and the schemas of archives.
types: web/node_modules/.installed
	go run ./cmd/readyrail describe > web/src/api/openapi.json
	go run ./cmd/readyrail describe --schemas docs/schemas
	cd web && npm run types --silent

# Debian's packages that the tests need, when they are missing.
$(CHROMIUM):
	apt-get update -qq && apt-get install -y -qq chromium-headless-shell
mbpoll:
	@command -v mbpoll >/dev/null || (apt-get update -qq && apt-get install -y -qq mbpoll)

# Packages without SQLite run under the race detector.
RACED := ./internal/core/... ./internal/door/... ./internal/engine/... ./internal/link/... ./internal/modbus/... ./internal/broker/... ./internal/plant/...

# What needs no browser and no race detector.
quick: build
	@gofmt -l cmd internal e2e web/*.go | (! grep .) || (echo "gofmt: the files above" && exit 1)
	go vet ./...
	go test ./internal/... ./cmd/...

# Form and mistakes of the code, and types that are out of date.
lint: build
	go tool staticcheck ./...
	cd web && npm run lint --silent
	@$(MAKE) --no-print-directory types && git diff --exit-code --stat -- web/src/api docs/schemas || \
		(echo "web/src/api or docs/schemas was out of date: commit what 'make types' made" && exit 1)

test: quick lint $(CHROMIUM) mbpoll
	go test -race $(RACED)
	@e2e/journeys.sh $(BESIDE)
	@echo "All tests passed."

journeys: build $(CHROMIUM)
	go test -count=1 -v ./e2e

shots: build $(CHROMIUM)
	go test -count=1 ./e2e -run '^TestShots$$' -shots $(CURDIR)/docs/screenshots

bench: build $(CHROMIUM)
	bin/readyrail bench
	go test -run "^$$" -bench . -benchtime 1x -timeout 20m ./e2e

# What is handed out: programs, packages, lists of what is within, checksums.
dist: web/dist/app/index.html
	packaging/dist.sh

clean:
	rm -rf bin dist web/dist/app web/node_modules
