package plan

import (
	"strings"

	"upperlantern/internal/core/money"
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

func (p *Plan) textCost(d Delivery) money.Amount {
	return money.Amount(d.Count.Parts) * price(p.Settings.Rates.TextPart, d.To)
}

func (p *Plan) callCost(d Delivery) money.Amount {
	return money.Amount(startedMinutes(d.Seconds)) * price(p.Settings.Rates.VoiceMinute, d.To)
}
