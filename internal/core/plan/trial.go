package plan

import (
	"cmp"
	"slices"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/field"
	"upperlantern/internal/core/roster"
)

// trialMark stands before what a sender tries on themselves.
const trialMark = "TRIAL: "

// Trial is what one recipient would get, sent to the sender's own addresses
// instead: every channel that has content, marked as a trial. Recipient is an
// index into Recipients. Missing names a field that nothing fills.
func (p *Plan) Trial(recipient int, own []roster.Address) (deliveries []Delivery, missing field.Name) {
	rec := p.Recipients[recipient]
	value := func(f field.Field) string { return p.filler.value(f, rec.Recipient) }
	fill := func(text string) string {
		filled, empty := field.Parse(text).Fill(value)
		missing = cmp.Or(missing, empty)
		return filled
	}
	for _, c := range roster.Channels {
		at := slices.IndexFunc(own, func(a roster.Address) bool { return a.Channel == c && a.Usable() })
		if at < 0 || !p.Draft.Has(c) {
			continue
		}
		d := Delivery{
			Envelope: delivery.Envelope{Channel: c, To: own[at].Value}, Recipients: []int{recipient}, Mark: trialMark,
			At: p.Settings.Leaves,
		}
		switch c {
		case roster.Email:
			d.Subject, d.Body = trialMark+fill(p.prefixed(p.Draft.Subject)), trialMark+fill(p.signed())
		case roster.Text:
			d.Body = trialMark + fill(p.written.TextBody())
		case roster.Voice:
			if p.Draft.Voice.Recording == nil {
				d.Body = trialMark + fill(p.written.VoiceBody())
			}
		case roster.Push:
			filled, empty := p.fillPush(p.newPushed(trialMark), value)
			missing = cmp.Or(missing, empty)
			d.Subject, d.Body, d.Link, d.Bytes = filled.subject, filled.body, filled.link, filled.bytes
		}
		p.measure(&d)
		deliveries = append(deliveries, d)
	}
	return deliveries, missing
}
