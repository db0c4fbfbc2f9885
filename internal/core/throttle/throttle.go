// Package throttle slows down whoever tries passwords.
package throttle

import (
	"time"
)

// Rules say how tries are slowed down.
type Rules struct {
	Free    int           // wrong tries that cost no wait
	First   time.Duration // the wait after one more, which doubles with every further one
	Longest time.Duration
	Forget  time.Duration // after so long without a try everything is forgotten
	Most    int           // how many keys are remembered; the oldest is forgotten first
}

// Tries remembers the tries of keys, such as accounts and networks. It is not for
// use by several goroutines at once.
type Tries struct {
	Rules
	by map[string]tries
}

type tries struct {
	n    int
	last time.Time
}

// New makes an empty memory.
func New(r Rules) *Tries { return &Tries{r, map[string]tries{}} }

// Wait is how long a key must wait at an instant before its next try; 0 when it
// may try now.
func (t *Tries) Wait(key string, now time.Time) time.Duration {
	known, ok := t.by[key]
	if !ok || now.Sub(known.last) >= t.Forget || known.n < t.Free {
		return 0
	}
	wait := t.Longest
	if doubled := known.n - t.Free; doubled < 30 { // beyond that it is longer than any limit
		wait = min(t.First<<doubled, t.Longest)
	}
	return max(0, known.last.Add(wait).Sub(now))
}

// Begin counts a try before it is known whether it is wrong, so that many at once
// count too.
func (t *Tries) Begin(key string, now time.Time) {
	known, ok := t.by[key]
	if !ok && len(t.by) >= t.Most {
		t.forgetOldest()
	}
	if now.Sub(known.last) >= t.Forget {
		known.n = 0
	}
	t.by[key] = tries{known.n + 1, now}
}

// Clear forgets a key whose try was right.
func (t *Tries) Clear(key string) { delete(t.by, key) }

// Len is how many keys are remembered.
func (t *Tries) Len() int { return len(t.by) }

// forgetOldest makes room for a tenth of what is remembered, so that it is
// rarely done.
func (t *Tries) forgetOldest() {
	var oldest, newest time.Time
	for _, known := range t.by {
		if oldest.IsZero() || known.last.Before(oldest) {
			oldest = known.last
		}
		if known.last.After(newest) {
			newest = known.last
		}
	}
	until := oldest.Add(newest.Sub(oldest) / 10)
	for key, known := range t.by {
		if !known.last.After(until) {
			delete(t.by, key)
		}
	}
}

// Undo takes back the last try of a key.
func (t *Tries) Undo(key string) {
	known, ok := t.by[key]
	if !ok {
		return
	}
	if known.n--; known.n <= 0 {
		delete(t.by, key)
		return
	}
	t.by[key] = known
}
