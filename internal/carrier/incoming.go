package carrier

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strings"
	"time"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/incoming"
	"upperlantern/internal/core/roster"
)

// Taker takes what came in to where it is kept.
type Taker func(context.Context, incoming.Item) error

// GatewayItem is what a gateway posts of a text, or of words spoken after the beep.
type GatewayItem struct {
	Key     string         `json:"key"`     // the gateway's own; what is posted twice has the same
	Channel roster.Channel `json:"channel"` // text or voice
	From    string         `json:"from"`    // E.164
	To      string         `json:"to"`      // E.164, which of our numbers
	Text    string         `json:"text"`
	Media   []GatewayMedia `json:"media,omitempty"`
	At      time.Time      `json:"at"`
}

// GatewayMedia is a picture, a sound or a file of an item.
type GatewayMedia struct {
	Name    string `json:"name"`
	Type    string `json:"type"`
	Content []byte `json:"content"` // base64
}

// LargestItem is the most that is read of what a gateway posts, in bytes: media are
// written in base64.
const LargestItem = 8 << 20

// Incoming takes what gateways post of what people send to our numbers, signed like
// their reports.
func Incoming(secrets func() []string, take Taker, now func() time.Time) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		body, err := io.ReadAll(http.MaxBytesReader(w, r.Body, LargestItem))
		if err != nil {
			http.Error(w, fmt.Sprintf("more than %d MB is not taken", LargestItem>>20), http.StatusRequestEntityTooLarge)
			return
		}
		if err := verify(r.Header, secrets(), now(), body); err != nil {
			http.Error(w, err.Error(), http.StatusUnauthorized)
			return
		}
		item, err := readItem(body, now())
		if err != nil {
			http.Error(w, err.Error(), http.StatusUnprocessableEntity)
			return
		}
		switch err := take(r.Context(), item); {
		case errors.Is(err, incoming.ErrNotOurs):
			http.Error(w, err.Error(), http.StatusUnprocessableEntity)
		case err != nil:
			http.Error(w, "it could not be kept; send it again", http.StatusServiceUnavailable)
		default:
			w.WriteHeader(http.StatusNoContent)
		}
	})
}

func readItem(body []byte, now time.Time) (incoming.Item, error) {
	var g GatewayItem
	if err := json.Unmarshal(body, &g); err != nil {
		return incoming.Item{}, fmt.Errorf("it cannot be read: %w", err)
	}
	switch {
	case g.Key == "" || len(g.Key) > delivery.LongestKey:
		return incoming.Item{}, fmt.Errorf("it needs a key, of at most %d characters", delivery.LongestKey)
	case g.Channel != roster.Text && g.Channel != roster.Voice:
		return incoming.Item{}, fmt.Errorf("%q is neither text nor voice", g.Channel)
	case !isNumber(g.From):
		return incoming.Item{}, errors.New("from must be a number in E.164, such as +447700900417")
	case len(g.Media) > incoming.MostFiles:
		return incoming.Item{}, fmt.Errorf("at most %d media are taken", incoming.MostFiles)
	}
	i := incoming.Item{
		Via: delivery.ViaGateway, Key: "gateway " + g.Key, Channel: g.Channel, From: g.From, To: g.To, Text: g.Text, At: g.At,
	}
	for _, m := range g.Media {
		i.Files = append(i.Files, incoming.File{Name: m.Name, Type: m.Type, Content: m.Content})
	}
	return i.Bounded(now), nil
}

// isNumber reports whether a text is a number in E.164.
func isNumber(text string) bool {
	digits := strings.TrimPrefix(text, "+")
	return text != digits && len(digits) >= 4 && len(digits) <= 15 && strings.Trim(digits, "0123456789") == ""
}
