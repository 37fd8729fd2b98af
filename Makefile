# Slate Bell. `make demo` builds and starts it; `make test` checks and tests it.
# Everything a fresh machine lacks beyond Go, Node, gcc and apt is installed here.

export CGO_ENABLED = 0
# The same flags for building, checking and testing: what is compiled once serves all three.
export GOFLAGS = -buildvcs=false -trimpath

BIN := bin/slatebell
VERSION := $(shell git describe --tags --always 2>/dev/null || echo dev)
COMMIT := $(shell git rev-parse HEAD 2>/dev/null)
DATE := $(shell git log -1 --format=%cs 2>/dev/null)
WEB_SOURCES := $(shell find web/src -type f) $(filter-out web/public/notices.txt,$(wildcard web/public/*)) web/index.html web/vite.config.ts web/package.json
ADDR ?= 127.0.0.1:8414

.PHONY: demo build release test quick soak race fuzz tools check check-go check-web bench compare screenshots generate

# Builds the program and starts it with the demo data.
demo: build
	$(BIN) serve --demo --data var/demo --addr $(ADDR)

build: web/dist/index.html
	go build -ldflags="-s -w -X main.version=$(VERSION) -X main.commit=$(COMMIT) -X main.date=$(DATE)" -o $(BIN) ./cmd/slatebell

web/node_modules/.package-lock.json: web/package.json web/package-lock.json
	cd web && npm ci --no-audit --no-fund

# The licences of all parts that the program carries; the page shows them.
web/public/notices.txt: web/node_modules/.package-lock.json go.sum internal/notices/main.go
	go run ./internal/notices > $@.new && mv $@.new $@

web/dist/index.html: web/node_modules/.package-lock.json web/public/notices.txt $(WEB_SOURCES)
	cd web && npm run build

# Everything that is handed out, for every system, in dist/ (see internal/release), and looked at: started in fresh directories, built again.
# INSTALL=1 also installs the Debian package on this machine, and takes it off again.
RELEASE_FLAGS = -version $(VERSION) -commit $(COMMIT) -time $(shell git log -1 --format=%ct)
release: build
	go run ./internal/release -out dist $(RELEASE_FLAGS)
	DIST=$(CURDIR)/dist RELEASE_FLAGS="$(RELEASE_FLAGS)" go test -count=1 -timeout 30m ./internal/release

# Writes the OpenAPI document and the TypeScript types that come from the Go types.
generate: web/node_modules/.package-lock.json
	@mkdir -p var
	go run ./cmd/slatebell openapi > server/api/openapi.json
	go run ./cmd/slatebell schema > docs/program.schema.json
	go run ./cmd/slatebell schema --of bench > var/bench.schema.json && mv var/bench.schema.json formats/benchjson/bench.schema.json
	cd web && npm run types

# Formats, linters, types, and whether generated files are current: Go and the front end side by side.
check:
	@$(MAKE) --no-print-directory -j2 --output-sync=target check-go check-web
	@$(MAKE) --no-print-directory build

check-go:
	@test -z "$$(gofmt -l $$(git ls-files -co --exclude-standard '*.go'))" || { echo "gofmt -w these:"; gofmt -l $$(git ls-files -co --exclude-standard '*.go'); exit 1; }
	go vet ./...
	go tool staticcheck ./...
	go run ./cmd/slatebell openapi | diff -q - server/api/openapi.json || { echo "server/api/openapi.json is stale: run make generate"; exit 1; }

check-web: web/node_modules/.package-lock.json
	@mkdir -p var
	cd web && npx openapi-typescript ../server/api/openapi.json -o ../var/schema.gen.ts >/dev/null && diff -q ../var/schema.gen.ts src/api/schema.gen.ts || { echo "web/src/api/schema.gen.ts is stale: run make generate"; exit 1; }
	cd web && npm run check

# Every check and every test: the interface in headless Chromium, the code that is exported
# compiled, and run on a simulated ATmega. Those of the interface begin first, since they take longest.
test: tools check
	go test -vet=off -timeout 25m ./e2e ./...

# Every test but those of the interface and those that compile programs, with fewer random trials.
quick:
	@test -z "$$(gofmt -l $$(git ls-files -co --exclude-standard '*.go'))" || { echo "gofmt -w these:"; gofmt -l $$(git ls-files -co --exclude-standard '*.go'); exit 1; }
	go vet ./...
	go test -vet=off -short ./core/... ./formats/... ./server/... ./internal/... ./cmd/...

# Random benches, programs and acts, each test for as long as is said: make soak FOR=10m
FOR ?= 5m
soak: build tools
	SOAK=$(FOR) go test -v -count=1 -timeout 0 -run 'TestLawfulBenches|TestWired|TestPassage$$|TestRandomActs|TestKills|TestC$$|TestMicroPython|TestAVR|TestInputs|TestSketch|TestBuilds|TestHostileTexts|TestCrowd|TestInterleavings|TestSixteen|TestDamaged|TestClock' ./web ./core/prove/run ./server/api ./server/store ./cmd/slatebell ./codegen ./export ./e2e

# Every reader of what people bring along, each for as long as is said, on one processor: make fuzz FOR=10m ONLY=vcd
ONLY ?= .
fuzz:
	@set -e; for f in $$(grep -rno '^func Fuzz[A-Za-z0-9]*' --include=*_test.go . | sed 's|/[^/]*_test.go:[0-9]*:func |:|' | grep '$(ONLY)' | sort); do \
		echo "$${f#*:} of $${f%:*}"; GOMAXPROCS=1 go test -vet=off -run '^$$' -fuzz "^$${f#*:}$$" -fuzztime $(FOR) -fuzzminimizetime 1s -parallel 1 $${f%:*} | tail -3; done

# The race detector over every test, those of the interface too, whose program is then built with it: it takes cgo, and some ten times as long.
race: build tools
	CGO_ENABLED=1 RACE=1 go test -race -vet=off -timeout 4h $(RACE_PACKAGES)
RACE_PACKAGES = ./e2e ./...

# What tests need, from Debian's packages.
tools:
	@command -v chromium-headless-shell >/dev/null || command -v chromium >/dev/null || missing=1; \
	for tool in pdftotext pbmtext bdftopcf pcf2bdf avr-gcc g++ sigrok-cli; do command -v $$tool >/dev/null || missing=1; done; \
	test -f /usr/include/simavr/sim_avr.h -a -f /usr/include/libelf.h -a -d /usr/lib/avr/include || missing=1; \
	test -z "$$missing" || { apt-get update && DEBIAN_FRONTEND=noninteractive apt-get install -y --no-install-recommends \
		chromium-headless-shell poppler-utils netpbm xfonts-utils pcf2bdf gcc-avr g++ avr-libc libsimavr-dev libelf-dev sigrok-cli; }

# Every figure, in the benchmark format, into var/bench/COMMIT.txt as well: make bench BENCH=Rig takes some of them.
BENCH ?= .
COUNT ?= 1
bench: SHELL := /bin/bash
bench: .SHELLFLAGS := -o pipefail -c
bench: build
	@mkdir -p var/bench
	@{ go test -run '^$$' -bench '$(BENCH)' -count $(COUNT) -benchmem $$(go list ./... | grep -v /e2e) && \
		go test -run '^$$' -bench '$(BENCH)' -count $(COUNT) -benchtime 50x -timeout 2h ./e2e; } | grep -v 'no test files' | tee var/bench/$(VERSION).txt

# Compares two commits by benchstat: make compare OLD=v1 NEW=HEAD BENCH=Patch. What is not measured yet of one is, in a copy of it; the
# interface's own figures are only compared where make bench took them.
NEW ?= HEAD
compare:
	@test -n "$(OLD)" || { echo "say which commit: make compare OLD=COMMIT [NEW=COMMIT] [BENCH=PATTERN] [COUNT=6]"; exit 1; }
	@mkdir -p var/bench; for c in $(OLD) $(NEW); do f=var/bench/$$(git rev-parse --short $$c)-$$(echo '$(BENCH)' | tr -c 'A-Za-z0-9\n' _).txt; \
		test -s $$f || { rm -rf var/bench/tree && git worktree prune && git worktree add -q --detach var/bench/tree $$c && \
			(cd var/bench/tree && go test -run "^$$" -bench '$(BENCH)' -count $(if $(filter 1,$(COUNT)),6,$(COUNT)) -benchmem $$(go list ./... | grep -v /e2e)) > $$f.part; \
			git worktree remove --force var/bench/tree; mv $$f.part $$f; }; files="$$files $$f"; done; go tool benchstat $$files

# Takes docs/screenshots from the demo data.
screenshots: build tools
	go run ./e2e/screenshots
