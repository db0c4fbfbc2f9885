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

// wordsPerMinute is how fast a message is read aloud, by base language.
var wordsPerMinute = map[string]int{"en": 150, "es": 160, "pt": 150, "pl": 130, "uk": 130, "ar": 120, "vi": 160, "so": 130}

const usualWordsPerMinute = 140

// seconds estimates how long a text takes when read aloud.
func seconds(text, baseLanguage string) int {
	rate, ok := wordsPerMinute[baseLanguage]
	if !ok {
		rate = usualWordsPerMinute
	}
	words := len(strings.Fields(text))
	return (words*60 + rate - 1) / rate
}

func startedMinutes(seconds int) int { return (seconds + 59) / 60 }
