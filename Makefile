# Lantern Row. `make demo` and `make test` do all set-up themselves.
SHELL := /bin/bash
BIN := bin/lanternrow
UI := internal/platform/web/dist/index.html
UI_SOURCES := $(shell find ui/src ui/public -type f 2>/dev/null) ui/index.html ui/vite.config.ts $(shell find ui/build -type f) ui/package-lock.json
GO_SOURCES := $(shell find cmd internal -type f -not -path '*/dist/*') go.mod go.sum
# What is made here is about the house under this folder, whatever house is in service on the machine.
export LANTERNROW_RUN ?= .run
export PLAYWRIGHT_SKIP_BROWSER_DOWNLOAD := 1

STORM_TESTS := Kill|Storm|Nonsense|Guesses|ManyListen|Standby|ThreeServers|BreaksOff|AsksForARole|WhoServes|WhichSite|FullDisk|ClockSteps|ClockThatIs|ConnectionIsCut|Stranger

.PHONY: demo test dev build lint storms bench shots reset stop api setup setup-test verify

demo: build ## set up, build, load the demo once, serve it
	$(BIN) demo

dev: ui/node_modules ## serve the interface with reloading; run `make demo` beside it
	cd ui && node_modules/.bin/vite

build: setup $(BIN)

$(BIN): $(UI) $(GO_SOURCES)
	go build -trimpath -ldflags "-X lanternrow/internal/house.revision=$$(git describe --always --dirty 2>/dev/null)" -o $(BIN) ./cmd/lanternrow

$(UI): ui/node_modules $(UI_SOURCES)
	find internal/platform/web/dist -mindepth 1 ! -name .keep -delete
	cd ui && node_modules/.bin/vite build --logLevel warn && node build/sizes.mjs --brief
	touch $(UI)

ui/node_modules: ui/package-lock.json
	cd ui && npm ci --no-fund --no-audit --loglevel error
	touch ui/node_modules

e2e/node_modules: e2e/package-lock.json
	cd e2e && npm ci --no-fund --no-audit --loglevel error
	touch e2e/node_modules

setup: ## install what the application needs from the system's packages
	@scripts/setup.sh serve

setup-test: setup
	@scripts/setup.sh test

test: setup-test build e2e/node_modules lint ## set up and run every test
	cd ui && node_modules/.bin/vitest run --reporter dot
	go test -timeout 20m ./cmd/... ./internal/...; status=$$?; LANTERNROW_RUN=.run/test $(BIN) stop; exit $$status
	cd e2e && node_modules/.bin/playwright test

lint: ui/node_modules $(UI)
	@test -z "$$(gofmt -l cmd internal)" || { gofmt -l cmd internal; echo 'gofmt these files'; exit 1; }
	go vet ./cmd/... ./internal/...
	go tool staticcheck ./cmd/... ./internal/...
	cd ui && node_modules/.bin/eslint . --max-warnings 0 && node_modules/.bin/prettier --check --log-level warn src && node_modules/.bin/vue-tsc --noEmit

api: ## write the API's description and the client's types anew
	go build -o $(BIN) ./cmd/lanternrow
	$(BIN) openapi | node -e 'let s="";process.stdin.on("data",d=>s+=d).on("end",()=>process.stdout.write(JSON.stringify(JSON.parse(s),null,2)+"\n"))' > docs/openapi.json
	cd ui && node_modules/.bin/openapi-typescript ../docs/openapi.json -o src/api/schema.d.ts

storms: setup-test build ## kill, cut, flood and guess, as much as a storm takes; figures on the screen
	STORMS=1 go test -timeout 80m -count 1 -v -run '$(STORM_TESTS)' ./cmd/lanternrow ./internal/application ./internal/ledger ./internal/platform/... \
		| grep -E '^(---|===|ok|FAIL|panic)|_test.go:' | grep -v '^=== '; status=$${PIPESTATUS[0]}; LANTERNROW_RUN=.run/test $(BIN) stop; exit $$status

bench: build ## measure; figures on the screen and in .run/bench.json
	@mkdir -p .run
	$(BIN) bench --json .run/bench.json

shots: build setup-test e2e/node_modules ## take docs/screenshots anew from a fresh demo
	scripts/shots.sh

verify: build
	$(BIN) verify

stop: ## stop the private database server
	@test ! -x $(BIN) || $(BIN) stop

reset: stop ## forget the demo; the next `make demo` makes it anew
	@scripts/reset.sh
