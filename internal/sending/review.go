package sending

import (
	"context"
	"encoding/hex"
	"errors"
	"fmt"
	"strings"

	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/replan"
	"upperlantern/internal/store"
)

// Review compares plans with the roster as it is: of scheduled messages shortly before
// they leave, and of what still waits to leave while the roster changes. What fails for
// one message does not keep the others.
func (d *Service) Review(ctx context.Context) error {
	list, err := d.Store.ToLookAt(ctx, d.Now())
	for _, looked := range list {
		failed := d.review(ctx, looked)
		if failed != nil && !errors.Is(failed, store.ErrConflict) { // it was stopped, or left, meanwhile
			failed = errors.Join(failed, d.unplanned(ctx, looked))
			err = errors.Join(err, fmt.Errorf("planning message %d again: %w", looked.ID, failed))
		}
		d.Held(looked.ID)
	}
	return err
}

func (d *Service) review(ctx context.Context, looked store.Looked) error {
	revision, err := d.Store.RosterRevision(ctx) // what changes from here on is looked at again
	if err != nil {
		return err
	}
	m, err := d.Store.Message(ctx, looked.ID)
	if err != nil {
		return err
	}
	w, err := d.planSent(ctx, m, d.Now())
	if err != nil {
		return err
	}
	kept, err := d.Store.Planned(ctx, m.ID)
	if err != nil {
		return err
	}
	if looked.State == store.Sending {
		return d.Store.Withdraw(ctx, looked, revision, replan.Withdrawn(w.Roster, w.Plan, kept), d.Now())
	}
	changes, err := replan.Compare(w.Roster, w.Plan, kept, says(w.Plan))
	if err != nil {
		return err
	}
	if len(changes) == 0 {
		return d.Store.LookedAt(ctx, looked, revision, nil, d.Now())
	}
	c := &store.Changed{At: d.Now(), List: changes, All: len(changes)}
	if m.LateYesAt.IsZero() && w.Organisation.Sending.Asks(len(changes)) {
		c.Waits = true
		if err := d.Store.LookedAt(ctx, looked, revision, c, d.Now()); err != nil {
			return err
		}
		return d.ask(ctx, m.Heading, c)
	}
	return d.Store.Replan(ctx, looked, revision, w.Roster, w.Plan, changes, c, d.Now())
}

// unplanned makes a scheduled message whose time has come wait for a yes, because nobody
// can tell who it would go to now. Before its time it is simply tried again.
func (d *Service) unplanned(ctx context.Context, looked store.Looked) error {
	if looked.State != store.Held || looked.Leaves.After(d.Now()) {
		return nil
	}
	c := &store.Changed{At: d.Now(), Waits: true, Failed: true}
	if err := d.Store.LookedAt(ctx, looked, 0, c, d.Now()); err != nil {
		return err
	}
	m, err := d.Store.Heading(ctx, looked.ID)
	if err != nil {
		return err
	}
	return d.ask(ctx, m, c)
}

// says is the hash of what a delivery of a plan says.
func says(p *plan.Plan) func(plan.Delivery) (string, error) {
	return func(delivery plan.Delivery) (string, error) {
		hash, err := p.Content(delivery).Hash()
		return hex.EncodeToString(hash[:]), err
	}
}

// shownChanges is how many changes an email lists.
const shownChanges = 20

// ask tells the sender of a message why it waits for a yes.
func (d *Service) ask(ctx context.Context, m store.Heading, c *store.Changed) error {
	if d.Tell == nil {
		return nil
	}
	sender, err := d.Store.Account(ctx, m.SenderID)
	if errors.Is(err, store.ErrNotFound) {
		return nil // their account ended; the strip asks the others
	}
	if err != nil {
		return err
	}
	d.Tell(ctx, sender, "“"+m.Title+"” waits for your yes", fmt.Sprintf(
		"The message “%s” was to leave now. %s\n\nIt waits until somebody sends or stops it.", m.Title, whyItWaits(c),
	))
	return nil
}

func whyItWaits(c *store.Changed) string {
	if c.Failed {
		return "It could not be compared with the roster as it is now, so that nobody can tell whether the right people" +
			" would get it. The program’s log says why. Sending it compares it again."
	}
	lines := []string{fmt.Sprintf(
		"Since it was checked, the roster changed for %s:\n", plan.Count(c.All, "person", "people"),
	)}
	for _, change := range c.List[:min(len(c.List), shownChanges)] {
		lines = append(lines, "- "+change.Name+" "+change.About)
	}
	if more := c.All - min(len(c.List), shownChanges); more > 0 {
		lines = append(lines, fmt.Sprintf("- and %d more", more))
	}
	return strings.Join(lines, "\n")
}
