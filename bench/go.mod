module lazo/bench

go 1.26.0

require (
	github.com/crillab/gophersat v1.4.0
	github.com/expr-lang/expr v1.17.8
	lazo v0.0.0
)

require (
	github.com/cockroachdb/apd/v3 v3.2.3 // indirect
	github.com/hashicorp/golang-lru/v2 v2.0.7 // indirect
	github.com/nyaruka/phonenumbers v1.8.1 // indirect
	github.com/rivo/uniseg v0.4.7 // indirect
	github.com/teambition/rrule-go v1.8.2 // indirect
	golang.org/x/text v0.44.0 // indirect
	google.golang.org/protobuf v1.36.12 // indirect
)

replace lazo => ../
