package plan

import (
	"cmp"
	"slices"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/field"
	"upperlantern/internal/core/lines"
	"upperlantern/internal/core/phrase"
	"upperlantern/internal/core/roster"
)

// Trial is what one recipient would get, sent to the sender's own addresses
// instead: every channel that has content and a carrier, marked as a trial. Recipient is an
// index into Recipients. With a language it is in that copy as far as it is filled, be
// it used or not; a copy that there is not is the original. Missing names a field that
// nothing fills.
func (p *Plan) Trial(
	recipient int, own []roster.Address, language string,
) (deliveries []Delivery, missing field.Name) {
	rec := p.Recipients[recipient].Recipient
	reading := p.readingOf(p.filler.roster.At(rec.Person).Language).reading
	for _, c := range p.Settings.Copies {
		if c.Language == language {
			reading = p.tailored(p.add(p.renderer(spoken(lines.Put(p.written(), c.Say)), language)), language)
		}
	}
	render, v := p.readings[reading], p.filler.of(rec)
	render.mark = phrase.In(render.language).Say("trial")
	for _, c := range roster.Channels {
		at := slices.IndexFunc(own, func(a roster.Address) bool { return a.Channel == c && a.Usable() })
		if at < 0 || !p.Draft.Has(c) || slices.Contains(p.Settings.Off, c) {
			continue
		}
		d := Delivery{
			Envelope: delivery.Envelope{Channel: c, Address: own[at].Value}, Recipients: []int{recipient}, Mark: render.mark,
			Language: render.language, reading: reading,
			At: p.Settings.Leaves,
		}
		says, empty := render.fill(c, &content{}, v)
		missing = cmp.Or(missing, empty)
		d.Subject, d.Body, d.Link, d.Bytes = says.subject, says.body, says.link, says.bytes
		p.measure(&d)
		deliveries = append(deliveries, d)
	}
	return deliveries, missing
}
