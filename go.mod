module cavix

go 1.26.8

require (
	github.com/santhosh-tekuri/jsonschema/v6 v6.0.3
	github.com/stretchr/testify v1.12.1
	golang.org/x/text v0.43.0
)

require go.yaml.in/yaml/v3 v3.0.5 // indirect
