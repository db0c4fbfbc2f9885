package plan

import (
	"slices"

	"upperlantern/internal/core/field"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/segment"
)

// trialMark stands before what a sender tries on themselves.
const trialMark = "TRIAL: "

// Trial is what one recipient would get, sent to the sender's own addresses
// instead: every channel that has content, marked as a trial. Recipient is an
// index into Recipients. Missing names a field that nothing fills.
func (p *Plan) Trial(recipient int, own []roster.Address) (deliveries []Delivery, missing field.Name) {
	rec := p.Recipients[recipient]
	fill := func(text string) string {
		filled, empty := field.Parse(text).Fill(func(n field.Name) string { return p.filler.value(n, rec.Recipient) })
		if empty != "" && missing == "" {
			missing = empty
		}
		return filled
	}
	for _, c := range roster.Channels {
		at := slices.IndexFunc(own, func(a roster.Address) bool { return a.Channel == c && a.Usable() })
		if at < 0 || !p.Draft.Has(c) {
			continue
		}
		d := Delivery{Channel: c, To: own[at].Value, Recipients: []int{recipient}, At: p.Settings.Leaves}
		switch c {
		case roster.Email:
			d.Subject, d.Body = trialMark+fill(p.prefixed(p.Draft.Subject)), trialMark+fill(p.signed())
		case roster.Text:
			d.Body = trialMark + fill(p.Draft.TextBody())
			d.Count = segment.Measure(d.Body)
			d.Cost = p.textCost(d)
		case roster.Voice:
			if p.Draft.Voice.Recording == nil {
				d.Body = trialMark + fill(p.Draft.VoiceBody())
			}
			d.Seconds = p.callSeconds(d.Body)
			d.Cost = p.callCost(d)
		}
		deliveries = append(deliveries, d)
	}
	return deliveries, missing
}
