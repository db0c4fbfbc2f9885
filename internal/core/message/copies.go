package message

import (
	"fmt"
	"slices"

	"upperlantern/internal/core/roster"
)

// Copies says which copies in other languages are good enough, and what readers of
// the others get. The zero value leaves the first to the urgency and gives the
// others the original.
type Copies struct {
	Accept    Accept           `json:"accept,omitempty" enum:"checked,unchecked," doc:"Only copies that somebody checked, or unchecked ones too; empty leaves it to the urgency"`
	Otherwise Otherwise        `json:"otherwise,omitempty" enum:"lines," doc:"Beneath the original: the lines that are filled; empty for nothing"`
	Beneath   []roster.Channel `json:"beneath,omitempty" maxItems:"4" doc:"Channels in which the original stands beneath a copy; a call cannot say both"`
	Voiceless Voiceless        `json:"voiceless,omitempty" enum:"next-step," doc:"Whose copy no voice speaks is tried by the next step; empty: they hear the original"`
}

// Voiceless is what becomes of calls whose copy no voice speaks.
type Voiceless string

// Accept is how good a copy must be.
type Accept string

// Otherwise is what stands beneath the original for readers of a copy that is not used.
type Otherwise string

const (
	HearOriginal  Voiceless = ""
	NextStep      Voiceless = "next-step"
	CheckedOnly   Accept    = "checked"
	UncheckedToo  Accept    = "unchecked"
	FilledLines   Otherwise = "lines"
	NothingBelow  Otherwise = ""
	AsUrgencySays Accept    = ""
)

// Unchecked reports whether copies that nobody read are good enough: for emergencies,
// unless the sender says otherwise, since late is worse than imperfect.
func (c Copies) Unchecked(u roster.Urgency) bool {
	if c.Accept == AsUrgencySays {
		return u == roster.Emergency
	}
	return c.Accept == UncheckedToo
}

func (c Copies) validate() error {
	if !slices.Contains([]Accept{AsUrgencySays, CheckedOnly, UncheckedToo}, c.Accept) {
		return fmt.Errorf("%q is neither checked nor unchecked", c.Accept)
	}
	if c.Otherwise != NothingBelow && c.Otherwise != FilledLines {
		return fmt.Errorf("%q cannot stand beneath the original", c.Otherwise)
	}
	if c.Voiceless != HearOriginal && c.Voiceless != NextStep {
		return fmt.Errorf("%q is not what becomes of a call without a voice", c.Voiceless)
	}
	for _, channel := range c.Beneath {
		if !channel.Valid() || channel == roster.Voice {
			return fmt.Errorf("nothing can stand beneath a copy in %q", channel)
		}
	}
	return nil
}
