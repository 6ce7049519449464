module lazo

go 1.26.0

require (
	github.com/alecthomas/kong v1.17.0
	github.com/cockroachdb/apd/v3 v3.2.3
	github.com/nyaruka/phonenumbers v1.8.1
	github.com/stretchr/testify v1.12.1
	golang.org/x/text v0.43.0
	pgregory.net/rapid v1.3.0
)

require (
	go.yaml.in/yaml/v3 v3.0.5 // indirect
	google.golang.org/protobuf v1.36.12 // indirect
)
