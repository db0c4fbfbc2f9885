// Package mend works out what would help somebody whom a message did not reach.
package mend

import "upperlantern/internal/core/plan"

// Way is what would mend it.
type Way string

const (
	NextChannel Way = "next-channel" // a further step of the message has an address for them
	Again       Way = "again"        // something can reach them now
	Address     Way = "address"      // an address that was tried is wrong
	Details     Way = "details"      // nothing on the roster reaches them
	Words       Way = "words"        // the message had nothing for them
	Paper       Way = "paper"        // they declined every channel
	Nothing     Way = ""             // it was meant so
)

// Ways lists every way, the quickest first.
var Ways = []Way{NextChannel, Again, Address, Details, Words, Paper}

// Missed is somebody whom a message did not reach, seen with the roster of now.
type Missed struct {
	Reason plan.Reason // of somebody who got nothing; "" of a recipient
	Next   bool        // a further step of the message has an address for them
	Fresh  bool        // it would go to an address now that was not tried
	Blamed bool        // an address that was tried is dead, doubtful or no longer theirs
	Usable bool        // it would go to an address now, be it one that was tried
}

// Of is what would mend it (see docs/rules.md, Needs a hand).
func Of(m Missed) Way {
	if m.Reason != "" {
		return ofLeftOut(m)
	}
	switch {
	case m.Next:
		return NextChannel
	case m.Fresh:
		return Again
	case m.Blamed:
		return Address
	case m.Usable:
		return Again
	}
	return Details
}

func ofLeftOut(m Missed) Way {
	if m.Fresh {
		return Again
	}
	switch m.Reason {
	case plan.NoAddress, plan.NoGuardian, plan.GuardiansGetNothing:
		return Details
	case plan.AllDead:
		return Address
	case plan.FieldEmpty, plan.NoContent, plan.NoVoice, plan.NoCarrier:
		return Words
	case plan.OptedOut:
		return Paper
	}
	return Nothing
}
