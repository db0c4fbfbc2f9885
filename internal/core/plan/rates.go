package plan

import (
	"strings"
	"unicode"

	"golang.org/x/text/language"

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

// WordsPerMinute is how fast a message in a language (BCP 47) is read aloud.
func WordsPerMinute(tag string) int {
	base, _ := language.Make(tag).Base()
	if rate, ok := wordsPerMinute[base.String()]; ok {
		return rate
	}
	return usualWordsPerMinute
}

// seconds estimates how long a text takes when read aloud.
func seconds(text string, rate int) int {
	words, within := 0, false
	for _, c := range text {
		letter := !unicode.IsSpace(c)
		if letter && !within {
			words++
		}
		within = letter
	}
	return (words*60 + rate - 1) / rate
}

func startedMinutes(seconds int) int { return (seconds + 59) / 60 }

func (p *Plan) textCost(d Delivery) money.Amount {
	return money.Amount(d.Count.Parts) * price(p.Settings.Rates.TextPart, d.To)
}

// callSeconds is the length of the recording, or how long the words take to read.
func (p *Plan) callSeconds(body string) int {
	if p.Draft.Voice.Recording != nil {
		return p.Draft.Voice.Seconds
	}
	return seconds(body, p.rate)
}

func (p *Plan) callCost(d Delivery) money.Amount {
	return money.Amount(startedMinutes(d.Seconds)) * price(p.Settings.Rates.VoiceMinute, d.To)
}
