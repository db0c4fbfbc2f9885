// Package gateways holds examples of templates for gateways, which the program offers
// to begin with.
package gateways

import (
	"embed"
	"fmt"
	"path"
)

//go:embed *.json
var files embed.FS

// Example is a template with what it is an example of.
type Example struct {
	Name     string `json:"name"`
	Template string `json:"template"`
}

// Examples are the templates of this folder.
func Examples() []Example {
	named := []Example{
		{Name: "JSON, with a key in a header", Template: "json-with-key.json"},
		{Name: "A form, with a user and a password", Template: "form-with-password.json"},
		{Name: "Everything in the address", Template: "address-only.json"},
	}
	for i, e := range named {
		content, err := files.ReadFile(path.Base(e.Template))
		if err != nil {
			panic(fmt.Sprintf("an embedded example is missing: %v", err))
		}
		named[i].Template = string(content)
	}
	return named
}
