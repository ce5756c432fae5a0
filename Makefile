# `make` alone lists the targets.
.DEFAULT_GOAL := help
.PHONY: help demo test check build console generate bench fuzz screenshots format

GO_FILES := $(shell git ls-files '*.go' ':!demo' 2>/dev/null)

help: ## list the targets
	@grep -hE '^[a-z]+:.*## ' $(MAKEFILE_LIST) | sed 's/:.*## /\t/' | expand -t 14

demo: ## set everything up and run it with the Kelpwick catalogue (PORT=7430 for another port)
	@scripts/install.sh mariadb
	@$(MAKE) --no-print-directory build
	@demo/demo.sh

test: ## install what the tests need and run every test
	@scripts/install.sh mariadb chromium
	@$(MAKE) --no-print-directory build
	@go tool gotestsum --format pkgname --hide-summary skipped -- -race -timeout 15m ./...

check: console/node_modules/.ready ## format, vet and lint
	gofmt -w $(GO_FILES)
	go vet ./...
	go tool staticcheck ./...
	cd console && npx prettier --log-level warn --write src index.html vite.config.ts && npm run --silent check

build: console ## build the console and the binary, bin/ironcast
	@echo "Building bin/ironcast ..."
	@go build -o bin/ironcast ./cmd/ironcast

console: console/dist/app/index.html ## build the web console

console/dist/app/index.html: console/node_modules/.ready $(shell find console/src console/public console/index.html console/vite.config.ts -type f)
	@echo "Building the console ..."
	@cd console && npm run --silent build >/dev/null
	@touch $@

console/node_modules/.ready: console/package.json console/package-lock.json
	@echo "Installing the console's packages ..."
	@cd console && npm ci --silent --no-fund --no-audit
	@touch $@

generate: console/node_modules/.ready ## refresh the OpenAPI document, the console's types and other golden files
	go test ./core/manifest ./service/api -update
	cd console && npm run --silent types

bench: ## print how fast it is, as ratios of one run
	@go test -run '^$$' -bench . -benchtime 1x ./bench

fuzz: ## fuzz every reader of foreign bytes, a minute each
	@scripts/fuzz.sh 60s

screenshots: build ## refresh the pictures in docs/screenshots
	@scripts/install.sh mariadb chromium
	@go test ./e2e -run TestScreenshots -count 1 -screenshots
