package field

import (
	"strings"

	"golang.org/x/text/language"
)

// conjunction joins the items of a list: between all, and before the last.
type conjunction struct{ comma, two, last string }

// Source: Unicode CLDR, listPattern type "standard".
var conjunctions = map[string]conjunction{
	"en": {", ", " and ", " and "},
	"pl": {", ", " i ", " i "},
	"ar": {" و", " و", " و"},
	"vi": {", ", " và ", " và "},
	"pt": {", ", " e ", " e "},
	"uk": {", ", " і ", " і "},
	"es": {", ", " y ", " y "},
	"zh": {"、", "和", "和"},
	"so": {", ", " iyo ", " iyo "},
}

// List writes names as a list in a language, such as “Sami, Lina and Omar”.
// A language without a pattern of its own gets commas.
func List(names []string, tag string) string {
	switch len(names) {
	case 0:
		return ""
	case 1:
		return names[0]
	}
	base, _ := language.Make(tag).Base()
	c, ok := conjunctions[base.String()]
	if !ok {
		c = conjunction{", ", ", ", ", "}
	}
	if len(names) == 2 {
		return names[0] + c.two + names[1]
	}
	last := len(names) - 1
	return strings.Join(names[:last], c.comma) + c.last + names[last]
}
