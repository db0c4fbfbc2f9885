package sending

import (
	"context"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/lines"
	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/record"
	"upperlantern/internal/store"
)

// Record is what became of a message besides its figures, seen with what was fixed
// when it was sent.
type Record struct {
	Message   store.Message
	Failures  []record.Failure // most first
	Languages []plan.LanguageCount
	Copies    map[string]copies.Standing // as they were sent, by language
	Trust     plan.Trust
	Steps     []plan.StepCount
	Spent     string // what has left cost, in the currency of then
	Planned   string // what the whole plan costs
	AtOnce    int    // deliveries, had every channel been used at once; 0 is not known
	Saving    plan.Total
	Saved     string // what the saving is worth, "" for nothing
}

// Record works out what became of a message.
func (d *Service) Record(ctx context.Context, id int64, by access.Principal) (Record, error) {
	m, err := d.Messages.Message(ctx, by, id)
	if err != nil {
		return Record{}, err
	}
	fixed, err := d.SentWith(ctx, m)
	if err != nil {
		return Record{}, err
	}
	r := Record{
		Message: m,
		Spent:   m.Figures.Spent.Format(fixed.Currency),
		Planned: m.Figures.Planned.Format(fixed.Currency),
	}
	atOnce, err := d.Store.AtOnce(ctx, m.ID)
	if err != nil {
		return r, err
	}
	r.AtOnce = atOnce.Deliveries
	r.Saving = atOnce.Saving(plan.Total{Deliveries: m.Figures.Deliveries, Cost: m.Figures.Planned})
	if r.Saving.Cost > 0 {
		r.Saved = r.Saving.Cost.Format(fixed.Currency)
	}
	if r.Failures, err = d.Store.Failures(ctx, m.ID); err != nil {
		return r, err
	}
	languages, err := d.Store.Languages(ctx, m.ID)
	if err != nil {
		return r, err
	}
	r.Languages = plan.CountLanguages(languages, fixed.Language)
	if r.Copies, err = d.standings(ctx, m, fixed); err != nil {
		return r, err
	}
	r.Trust = plan.CountTrust(r.Languages, r.Copies)
	people, err := d.Store.Steps(ctx, m.ID)
	for i, step := range fixed.StepsFor(m.Draft) {
		r.Steps = append(r.Steps, plan.StepCount{Channels: step, People: people[i+1]})
	}
	return r, err
}

// Story is what became of a message for one recipient, with what was fixed when it
// was sent.
func (d *Service) Story(
	ctx context.Context, id, recipient int64, by access.Principal,
) (store.Story, plan.Fixed, error) {
	m, err := d.Messages.Message(ctx, by, id)
	if err != nil {
		return store.Story{}, plan.Fixed{}, err
	}
	fixed, err := d.SentWith(ctx, m)
	if err != nil {
		return store.Story{}, fixed, err
	}
	s, err := d.Store.Story(ctx, id, recipient)
	for i := range s.Deliveries {
		s.RecipientRecord.Deliveries = append(s.RecipientRecord.Deliveries, s.Deliveries[i].Delivery)
	}
	return s, fixed, err
}

// standings are how far the copies of a sent message are, by language.
func (d *Service) standings(
	ctx context.Context, m store.Message, fixed plan.Fixed,
) (map[string]copies.Standing, error) {
	kept, err := d.Store.Copies(ctx, m.ID)
	if err != nil || len(kept) == 0 {
		return nil, err
	}
	cut := lines.Cut(lines.Written{Content: m.Draft.Cleaned(), Signature: fixed.Signature, Language: fixed.Language})
	list := map[string]copies.Standing{}
	for _, c := range kept {
		list[c.Language] = c.Standing(cut, func(lines.Line, string, string) bool { return false })
	}
	return list, nil
}
