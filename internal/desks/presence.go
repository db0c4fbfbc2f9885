package desks

import (
	"context"
	"slices"
	"strings"
	"sync"
	"time"

	"upperlantern/internal/core/access"
)

// presentFor is how long somebody counts as looking at a thread who has not said so again.
const presentFor = 30 * time.Second

// Present is somebody who looks at a thread.
type Present struct {
	Account int64
	Name    string
	Writing bool
	at      time.Time
}

// presence is who looks at which thread. It is not kept: after a start, everybody says
// so again.
type presence struct {
	mu      sync.Mutex
	threads map[int64][]Present
}

// say notes that somebody looks at a thread, and reports whether that is news to others.
func (p *presence) say(thread int64, who Present) (news bool) {
	p.mu.Lock()
	defer p.mu.Unlock()
	before := p.others(thread, 0, who.at)
	same := func(b Present) bool { return b.Account == who.Account && b.Writing == who.Writing }
	news = !slices.ContainsFunc(before, same)
	now := slices.DeleteFunc(before, func(b Present) bool { return b.Account == who.Account })
	if p.threads == nil {
		p.threads = map[int64][]Present{}
	}
	p.threads[thread] = append(now, who)
	for id := range p.threads { // what nobody looks at any more is forgotten
		if len(p.others(id, 0, who.at)) == 0 {
			delete(p.threads, id)
		}
	}
	return news
}

// others are those who look at a thread besides an account, by name; the caller holds
// the lock.
func (p *presence) others(thread, account int64, now time.Time) []Present {
	list := slices.DeleteFunc(slices.Clone(p.threads[thread]), func(b Present) bool {
		return b.Account == account || now.Sub(b.at) > presentFor
	})
	slices.SortFunc(list, func(a, b Present) int { return strings.Compare(a.Name, b.Name) })
	return list
}

// Here notes that somebody of the desk looks at a thread, and whether they write.
func (s *Service) Here(ctx context.Context, id int64, writing bool, by access.Principal) error {
	t, err := s.Thread(ctx, id, by)
	if err != nil {
		return err
	}
	if s.present.say(id, Present{Account: by.ID, Name: by.Name, Writing: writing, at: s.Now()}) {
		s.Changed(t.Desk)
	}
	return nil
}

// WhoElse are those who look at a thread besides an account.
func (s *Service) WhoElse(id int64, by access.Principal) []Present {
	s.present.mu.Lock()
	defer s.present.mu.Unlock()
	return s.present.others(id, by.ID, s.Now())
}
