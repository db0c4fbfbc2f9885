package plan

import (
	"strings"

	"upperlantern/internal/core/money"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/core/segment"
)

// Rate is a price for numbers that begin with a prefix.
type Rate struct {
	Prefix string       `json:"prefix"` // of the E.164 number; "" is every other number
	Price  money.Amount `json:"price"`
}

// Rates are an organisation's prices. Email costs nothing.
type Rates struct {
	TextPart    []Rate `json:"textPart"`
	VoiceMinute []Rate `json:"voiceMinute"` // for each started minute
}

// price is the rate with the longest prefix of the number, or 0.
func price(rates []Rate, number string) money.Amount {
	var best Rate
	for _, r := range rates {
		if strings.HasPrefix(number, r.Prefix) && len(r.Prefix) >= len(best.Prefix) {
			best = r
		}
	}
	return best.Price
}

func startedMinutes(seconds int) int { return (seconds + 59) / 60 }

// measure says what a filled delivery takes: the parts of a text, the seconds of a
// call, and what either costs.
func (p *Plan) measure(d *Delivery) {
	switch d.Channel {
	case roster.Text:
		d.Count = segment.Measure(d.Body)
		d.Parts = d.Count.Parts
		d.Cost = money.Amount(d.Parts) * price(p.Settings.Rates.TextPart, d.Address)
	case roster.Voice:
		d.Seconds = p.readings[d.reading].callSeconds(d.Body)
		d.Cost = money.Amount(startedMinutes(d.Seconds)) * price(p.Settings.Rates.VoiceMinute, d.Address)
	}
}
