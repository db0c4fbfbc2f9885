package view

import (
	"upperlantern/internal/core/office"
	"upperlantern/internal/core/phrase"
)

// Places is where an organisation can be, and what it can write in.
type Places struct {
	Countries  []office.Country `json:"countries"`
	Languages  []Choice         `json:"languages" doc:"In which the program has words of its own"`
	Currencies []string         `json:"currencies" doc:"ISO 4217"`
}

// AllPlaces are all of them.
func AllPlaces() Places {
	p := Places{Countries: office.Countries(), Languages: []Choice{}, Currencies: office.Currencies()}
	for _, tag := range phrase.Languages() {
		p.Languages = append(p.Languages, Choice{Value: tag, Words: phrase.LanguageName("en", tag)})
	}
	return p
}
