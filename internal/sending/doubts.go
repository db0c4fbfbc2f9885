package sending

import (
	"slices"
	"sync"

	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/lines"
)

// examined remembers which lines of copies are suspicious: a plan is worked out with
// every key that is pressed, and its copies are the same as before.
type examined struct {
	mu       sync.Mutex
	examiner copies.Examiner
	doubtful map[examinedLine]bool
}

type examinedLine struct{ key, said, language string }

// mostExamined is how many lines are remembered.
const mostExamined = 100_000

// by says what is suspicious for an examiner. With other terms than before everything
// is examined anew.
func (e *examined) by(now copies.Examiner) copies.Doubtful {
	e.mu.Lock()
	defer e.mu.Unlock()
	if e.doubtful == nil || e.examiner.From != now.From || !slices.Equal(e.examiner.Terms, now.Terms) {
		e.examiner, e.doubtful = now, map[examinedLine]bool{}
	}
	known := e.doubtful
	return func(l lines.Line, said, language string) bool {
		at := examinedLine{l.Key(), said, language}
		e.mu.Lock()
		doubtful, seen := known[at]
		e.mu.Unlock()
		if seen {
			return doubtful
		}
		doubtful = now.Doubtful(l, said, language)
		e.mu.Lock()
		defer e.mu.Unlock()
		if len(known) >= mostExamined {
			clear(known)
		}
		known[at] = doubtful
		return doubtful
	}
}
