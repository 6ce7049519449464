.PHONY: help demo demo-reset dev check test shared attack lint check-assets assets soak endure mutants upgrade fuzz bench bench-scale release shots stories
help: ## this list
	@grep -hE '^[a-z-]+:.*##' Makefile | sed 's/:.*## /\t/' | expand -t 14

demo: ## start the sample workspace with its own PostgreSQL; Ctrl-C stops it
	@bash scripts/demo.sh

demo-reset: ## the same, laid out afresh
	@bash scripts/demo.sh reset

dev: ## the same, built again and loaded anew whenever a file is saved
	@bash scripts/demo.sh dev

check: ## within a minute: lint, the core in short, and the packages that changed
	@bash scripts/check.sh

test: ## run every test with its own PostgreSQL and Chromium
	@bash scripts/test.sh

shared: ## the store, what goes out and the web over connections that pgbouncer shares
	@bash scripts/shared.sh ./store/... ./notify/... ./web

attack: ## readers, roles, made-up secrets, sensitive answers and batches of letters, at length
	@bash scripts/attack.sh

lint: ## vet, staticcheck and gofmt; long lines and functions; templates; scripts
	@test -z "$$(gofmt -l .)" || { gofmt -l .; echo "gofmt these files"; exit 1; }
	go vet ./...
	go tool staticcheck ./...
	@go run ./scripts/lint $$(git ls-files -c -o --exclude-standard '*.go')
	@go run ./web/ui/tidy $$(git ls-files -c -o --exclude-standard 'web/*.html')
	@bash scripts/assets.sh --lint

assets: ## build the committed styles, scripts and fonts from pinned packages
	@bash scripts/assets.sh

check-assets: ## prove that they are current
	@bash scripts/assets.sh --check

soak: ## the random tests for longer: ten times the forms, five times the browser's
	@bash scripts/soak.sh

endure: ## two copies under load for ten minutes, with slow visitors and hard stops
	@bash scripts/endure.sh

mutants: ## change conditions at random, and say which changes no test noticed: make mutants N=40
	@bash scripts/mutants.sh $(N)

upgrade: ## the version before on the schema of this one, as while an installation is brought up to date
	@bash scripts/upgrade.sh

fuzz: ## fuzz the readers (parser, sentences, forms, spreadsheets, answers, posts, texts), ten minutes each
	go test ./core/expr -run '^$$' -fuzz FuzzParse -fuzztime 10m
	go test ./core/expr -run '^$$' -fuzz FuzzReadSentence -fuzztime 10m
	go test ./core/sheet -run '^$$' -fuzz FuzzSheets -fuzztime 10m -fuzzminimizetime 10x
	go test ./core/form -run '^$$' -fuzz FuzzRead -fuzztime 10m
	go test ./core/engine -run '^$$' -fuzz FuzzAnswers -fuzztime 10m
	go test ./web/fill -run '^$$' -fuzz FuzzPosted -fuzztime 10m
	go test ./core/text -run '^$$' -fuzz FuzzText -fuzztime 10m

bench: ## the benchmarks of docs/benchmarks.md
	@bash scripts/bench.sh

bench-scale: ## a million responses of one form: what the desk makes people wait for
	@bash scripts/bench-scale.sh

release: ## build the static binaries of a release: make release VERSION=0.8.0
	@bash scripts/release.sh $(VERSION)

stories: ## how many presses the stories of docs/stories.md take
	@bash scripts/stories.sh

shots: ## take the pictures in docs/screenshots afresh
	@bash scripts/shots.sh
