package access

import (
	"errors"
	"fmt"
	"slices"
)

// Holder is an account among the others.
type Holder struct {
	ID     int64
	Name   string
	Active bool
	Grant
}

func (h Holder) full() bool { return h.Active && h.Full() }

// CheckChange refuses a change of an account that is one of all: of one that may do
// more, one that would lock oneself out, and one that would leave nobody with every
// right.
func (p Principal) CheckChange(before, after Holder, all []Holder) error {
	other := func(h Holder) bool { return h.ID != before.ID && h.full() }
	switch {
	case !p.Holds(before.Grant):
		return fmt.Errorf("%s may do more than you; ask somebody who may do as much", before.Name)
	case before.ID == p.ID && (!after.Active || !after.May(ChangeSettings)):
		return errors.New("you would lock yourself out; ask somebody else to do it")
	case before.full() && !after.full() && !slices.ContainsFunc(all, other):
		return fmt.Errorf("%s is the last account with every right; give them to somebody else first", before.Name)
	}
	return nil
}
