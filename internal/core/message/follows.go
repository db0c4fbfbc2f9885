package message

import (
	"fmt"
	"slices"

	"upperlantern/internal/core/roster"
)

// Follows says which message this one follows, and as what. All that follow one
// another are a chain.
type Follows struct {
	Message int64 `json:"message" doc:"The first of the chain"`
	As      As    `json:"as" enum:"again,further,unanswered,correction,all-clear,filled"`
	// Twice sends it to those as well whom the chain reached.
	Twice  bool              `json:"twice,omitempty" doc:"Also to those who got it already; otherwise they are passed over"`
	People []roster.PersonID `json:"people,omitempty" maxItems:"200000" doc:"Of those it is for, just these"`
}

// As is how a message follows another one.
type As string

const (
	Again      As = "again"      // the same once more, to those whom it did not reach
	Further    As = "further"    // the same to further people
	Unanswered As = "unanswered" // the same question once more, to those who have not answered it
	Correction As = "correction" // something else to exactly those who got it
	AllClear   As = "all-clear"  // as well
	Filled     As = "filled"     // that enough people answered, to those who did not
)

// Ways lists every way to follow.
var Ways = []As{Again, Further, Unanswered, Correction, AllClear, Filled}

// Repeats reports whether what follows says the same again: whoever got it, or answered
// it, needs it no more. Otherwise it is for exactly those who got it.
func (a As) Repeats() bool { return a == Again || a == Further || a == Unanswered }

func (f *Follows) validate() error {
	switch {
	case f == nil:
		return nil
	case f.Message <= 0:
		return fmt.Errorf("no message is named that it follows")
	case !slices.Contains(Ways, f.As):
		return fmt.Errorf("%q is not how a message follows another", f.As)
	}
	return nil
}
