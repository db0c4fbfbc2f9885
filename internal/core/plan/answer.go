package plan

import (
	"cmp"
	"slices"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/field"
	"upperlantern/internal/core/roster"
)

// Answer is what the draft says to one address, in a language (BCP 47), whoever the
// audience is: what a desk writes. Missing names a field, which an answer cannot have.
func (p *Plan) Answer(channel roster.Channel, address, tag string) (d Delivery, missing field.Name) {
	render := p.readings[0]
	d = Delivery{
		Envelope: delivery.Envelope{Channel: channel, Address: address, Sender: p.answers(channel, address), Step: 1},
		Language: cmp.Or(tag, render.language), At: p.Settings.Leaves,
	}
	says, missing := render.fill(channel, &content{}, nothing)
	d.Subject, d.Body, d.Link, d.Bytes = says.subject, says.body, says.link, says.bytes
	p.measure(&d)
	return d, missing
}

// nothing fills no field.
var nothing value = func(field.Field, string) string { return "" }

// answers is under which name or number an answer leaves.
func (p *Plan) answers(channel roster.Channel, address string) string {
	own := p.Settings.Identity
	if known := p.Settings.Conversation; channel == roster.Text && known != nil {
		return cmp.Or(known(address), own.Number)
	}
	return map[roster.Channel]string{roster.Email: own.Name, roster.Text: own.Number, roster.Voice: own.Caller}[channel]
}

// Carries reports whether anything carries a channel.
func (p *Plan) Carries(channel roster.Channel) bool { return !slices.Contains(p.Settings.Off, channel) }
