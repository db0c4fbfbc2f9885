package standin

import (
	"context"
	"encoding/binary"
	"errors"
	"hash/fnv"
	"math"
	"time"

	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/roster"
)

// Kind is a kind of weather in the stand-ins' world.
type Kind string

const (
	Calm  Kind = "calm"
	Busy  Kind = "busy"
	Storm Kind = "storm"
)

// Kinds lists every kind, the fairest first.
var Kinds = []Kind{Calm, Busy, Storm}

// sky is what a kind of weather means. Shares are of a thousand.
type sky struct {
	typical   time.Duration // by when half of the reports have come, besides Delay
	off       int           // phones, devices and mailboxes that take nothing: off, or full
	machines  int           // calls that an answering machine takes
	forgetful int           // people who hear a call and press no key
	late      int           // reports that come lateBy later
	doubled   int           // reports that come twice
	disorder  int           // reports that are followed by an older one
	perSecond int           // what a carrier takes in a second before it asks to wait; 0 is anything
}

// lateBy is how much later late reports come.
const lateBy = 10 * time.Minute

var skies = map[Kind]sky{
	Calm: {},
	Busy: {
		typical: 20 * time.Second, off: 20, machines: 150, forgetful: 200, late: 10, doubled: 20, disorder: 20, perSecond: 40,
	},
	Storm: {
		typical: 90 * time.Second, off: 100, machines: 300, forgetful: 400, late: 60, doubled: 100, disorder: 100,
		perSecond: 10,
	},
}

// Weather is the weather of now. The same seed lets the same things happen to the same
// addresses.
type Weather struct {
	Kind Kind  `json:"kind"`
	Seed int64 `json:"seed"`
}

// Words says what a kind of weather means.
func (k Kind) Words() []string {
	switch k {
	case Busy:
		return []string{
			"Half of the reports come within 20 seconds.", "Two in a hundred phones are off, and as many mailboxes full.",
			"Of a hundred calls 15 end at an answering machine, and 20 are heard without a key being pressed.", "One report in a hundred comes ten minutes late.",
			"Two in a hundred come twice, and as many are followed by an older one.",
			"Each carrier takes 40 a second and then asks to wait.",
		}
	case Storm:
		return []string{
			"Half of the reports come within a minute and a half.", "One phone in ten is off, and as many mailboxes full.",
			"Of ten calls three end at an answering machine, and four are heard without a key being pressed.", "Six reports in a hundred come ten minutes late.",
			"One in ten comes twice, and as many are followed by an older one.",
			"Each carrier takes 10 a second and then asks to wait.",
		}
	}
	return []string{
		"Reports come as soon as they do.", "Everybody is there, except for those with a fault of their own.",
		"Each report comes once and in order.", "Carriers take whatever comes.",
	}
}

// ErrUnknown means that there is no such weather, or no such fault.
var ErrUnknown = errors.New("there is no such thing in the stand-ins’ world")

// SetWeather changes the weather for what is taken from now on.
func (b *Box) SetWeather(ctx context.Context, w Weather) error {
	if _, known := skies[w.Kind]; !known {
		return ErrUnknown
	}
	_, err := b.db.ExecContext(ctx, `INSERT INTO world (id, weather, seed) VALUES (1, ?, ?)
ON CONFLICT DO UPDATE SET weather = excluded.weather, seed = excluded.seed`, w.Kind, w.Seed)
	if err == nil {
		b.mu.Lock()
		b.weather = w
		b.mu.Unlock()
	}
	return err
}

// Weather is the weather of now.
func (b *Box) Weather() Weather {
	b.mu.Lock()
	defer b.mu.Unlock()
	return b.weather
}

// loadWorld reads the weather and what is down from the file.
func (b *Box) loadWorld() error {
	b.weather = Weather{Kind: Calm, Seed: 1}
	err := b.db.QueryRow(`SELECT coalesce(max(weather), 'calm'), coalesce(max(seed), 1) FROM world`).
		Scan(&b.weather.Kind, &b.weather.Seed)
	if err != nil {
		return err
	}
	rows, err := b.db.Query(`SELECT channel, until FROM outages`)
	if err != nil {
		return err
	}
	defer rows.Close() //nolint:errcheck // rows.Err tells
	for rows.Next() {
		var channel roster.Channel
		var until int64
		if err := rows.Scan(&channel, &until); err != nil {
			return err
		}
		b.down[channel] = time.UnixMilli(until)
	}
	return rows.Err()
}

// Forever is until when a carrier is down that is brought up by hand.
var Forever = time.UnixMilli(math.MaxInt64 / 2)

// SetDown makes a carrier refuse everything until an instant; the zero time makes it
// work again.
func (b *Box) SetDown(ctx context.Context, channel roster.Channel, until time.Time) error {
	query, values := `DELETE FROM outages WHERE channel = ?`, []any{channel}
	if !until.IsZero() {
		query = `INSERT INTO outages VALUES (?, ?) ON CONFLICT DO UPDATE SET until = excluded.until`
		values = append(values, until.UnixMilli())
	}
	_, err := b.db.ExecContext(ctx, query, values...)
	if err == nil {
		b.mu.Lock()
		b.down[channel] = until
		b.mu.Unlock()
	}
	return err
}

// Down says until when a carrier refuses everything; the zero time says that it works.
func (b *Box) Down(channel roster.Channel) time.Time {
	b.mu.Lock()
	defer b.mu.Unlock()
	until := b.down[channel]
	if !until.After(b.Now()) {
		return time.Time{}
	}
	return until
}

// happens reports whether something happens to somebody that happens to so many of a
// thousand: the same whenever it is asked.
func (w Weather) happens(what, to string, ofThousand int) bool {
	return ofThousand > 0 && int(w.roll(what, to)%1000) < ofThousand
}

func (w Weather) roll(what, to string) uint64 {
	h := fnv.New64a()
	var seed [8]byte
	binary.LittleEndian.PutUint64(seed[:], uint64(w.Seed)) //nolint:gosec // any bits will do
	for _, part := range [][]byte{seed[:], []byte(what), {0}, []byte(to)} {
		_, _ = h.Write(part) // a hash takes everything
	}
	// FNV leaves the low bits of similar words alike: they are mixed once more (SplitMix64).
	x := h.Sum64()
	x = (x ^ x>>30) * 0xbf58476d1ce4e5b9
	x = (x ^ x>>27) * 0x94d049bb133111eb
	return x ^ x>>31
}

// fault is what is wrong with an address: a fault of its own, or the weather.
func (b *Box) fault(channel roster.Channel, address string) Fault {
	b.mu.Lock()
	own, w := b.faults[address], b.weather
	b.mu.Unlock()
	if own != "" {
		return own
	}
	now := skies[w.Kind]
	if channel == roster.Voice && w.happens("machine", address, now.machines) {
		return Machine
	}
	if w.happens("off "+string(channel), address, now.off) {
		if channel == roster.Voice {
			return NoAnswer
		}
		return Full
	}
	return ""
}

// forgets reports whether somebody hears a call and presses no key.
func (b *Box) forgets(number string) bool {
	w := b.Weather()
	return w.happens("forgets", number, skies[w.Kind].forgetful)
}

// delay is how long after it was taken something is reported on.
func (b *Box) delay(i Item) time.Duration {
	w := b.Weather()
	now := skies[w.Kind]
	delay := b.Delay()
	if now.typical > 0 { // half of them within the typical time, some much later
		part := float64(w.roll("delay", i.Address+i.Key)%1000) / 1000
		delay += time.Duration(float64(now.typical) * -math.Log(1-part) / math.Ln2)
	}
	if w.happens("late", i.Address+i.Key, now.late) {
		delay += lateBy
	}
	return delay
}

// room is what a carrier took in the second of now.
type room struct {
	second int64
	taken  int
}

// throttled reports whether a carrier asks to wait.
func (b *Box) throttled(channel roster.Channel) bool {
	b.mu.Lock()
	defer b.mu.Unlock()
	most := skies[b.weather.Kind].perSecond
	if most == 0 {
		return false
	}
	now := b.Now().Unix()
	r := b.rooms[channel]
	if r.second != now {
		r = room{second: now}
	}
	r.taken++
	b.rooms[channel] = r
	return r.taken > most
}

// more are the reports that come besides the one that is due: the same once more, or an
// older one that was held up.
func (b *Box) more(d dueReport) []dueReport {
	w := b.Weather()
	now, of := skies[w.Kind], d.Address+d.Key
	var list []dueReport
	if w.happens("doubled", of, now.doubled) {
		list = append(list, d)
	}
	if d.Channel != roster.Email && d.Channel != roster.Push && w.happens("disorder", of, now.disorder) {
		older := d
		older.state, older.detail, older.gone, older.older = delivery.Carrier, "with the network", false, true
		list = append(list, older)
	}
	return list
}
