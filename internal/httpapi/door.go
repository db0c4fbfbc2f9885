package httpapi

import (
	"context"
	"fmt"
	"math"
	"net/http"
	"runtime/debug"
	"strings"
	"sync"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/plan"
	"upperlantern/internal/core/throttle"
	"upperlantern/internal/password"
)

// Passwords are computed a few at once, since each takes 64 MB; some more wait
// for a moment and the rest are refused at once.
const (
	hashesAtOnce  = 2
	hashesWaiting = 32
	longestQueue  = 10 * time.Second
)

// Wrong tries are slowed down by account and by network. An account from where it
// was signed in before is counted apart, so that nobody elsewhere locks it out.
var (
	accountTries = throttle.Rules{
		Free: 5, First: 2 * time.Second, Longest: 15 * time.Minute, Forget: time.Hour, Most: 20_000,
	}
	networkTries = throttle.Rules{
		Free: 30, First: 2 * time.Second, Longest: 5 * time.Minute, Forget: time.Hour, Most: 20_000,
	}
)

// Whoever asks for links to new passwords is slowed down too.
var (
	accountAsks = throttle.Rules{
		Free: 3, First: time.Minute, Longest: time.Hour, Forget: 6 * time.Hour, Most: 20_000,
	}
	networkAsks = throttle.Rules{
		Free: 20, First: 10 * time.Second, Longest: 10 * time.Minute, Forget: time.Hour, Most: 20_000,
	}
)

// door is where passwords are tried, and links to new ones asked for.
type door struct {
	mu       sync.Mutex
	asking   *throttle.Tries // by login
	askingAt *throttle.Tries // by network
	accounts *throttle.Tries
	networks *throttle.Tries
	slots    chan struct{}  // who computes
	inside   chan struct{}  // who computes or waits to
	cost     *password.Cost // of new hashes
	nobody   func() (string, error)
}

func newDoor(cost *password.Cost) *door {
	return &door{
		cost:     cost,
		accounts: throttle.New(accountTries), networks: throttle.New(networkTries),
		asking: throttle.New(accountAsks), askingAt: throttle.New(networkAsks),
		slots: make(chan struct{}, hashesAtOnce), inside: make(chan struct{}, hashesAtOnce+hashesWaiting),
		nobody: sync.OnceValues(func() (string, error) { return password.Hash("nobody has this password", cost) }),
	}
}

// begin counts a try of an account from a network and returns how long it has to
// wait; 0 when it may go on.
func (d *door) begin(account, network string, now time.Time) time.Duration {
	d.mu.Lock()
	defer d.mu.Unlock()
	return count(d.accounts, d.networks, account, network, now)
}

// asks counts that a link to a new password is asked for, as begin counts tries.
func (d *door) asks(account, network string, now time.Time) time.Duration {
	d.mu.Lock()
	defer d.mu.Unlock()
	return count(d.asking, d.askingAt, account, network, now)
}

func count(accounts, networks *throttle.Tries, account, network string, now time.Time) time.Duration {
	wait := max(accounts.Wait(account, now), networks.Wait(network, now))
	if wait == 0 {
		accounts.Begin(account, now)
		networks.Begin(network, now)
	}
	return wait
}

// unfinished takes a try back that was right so far.
func (d *door) unfinished(account, network string) {
	d.mu.Lock()
	defer d.mu.Unlock()
	d.accounts.Undo(account)
	d.networks.Undo(network)
}

// slows reports whether an account has to wait for its next try.
func (d *door) slows(account string, now time.Time) bool {
	d.mu.Lock()
	defer d.mu.Unlock()
	return d.accounts.Wait(account, now) > 0
}

// opened forgives the tries of an account whose password was right. A network
// keeps those of others.
func (d *door) opened(account, network string) {
	d.mu.Lock()
	defer d.mu.Unlock()
	d.accounts.Clear(account)
	d.networks.Undo(network)
}

// errBusy answers when too many passwords are computed at this moment.
var errBusy = huma.ErrorWithHeaders(
	huma.Error503ServiceUnavailable("Too many people sign in at this moment. Try again in a few seconds."),
	http.Header{"Retry-After": {"5"}},
)

// compute runs do with at most so many others, and gives the memory back that it
// took once nobody is left.
func (d *door) compute(ctx context.Context, do func() error) error {
	select {
	case d.inside <- struct{}{}:
	default:
		return errBusy
	}
	defer d.leave()
	waited := time.NewTimer(longestQueue)
	defer waited.Stop()
	select {
	case d.slots <- struct{}{}:
	case <-waited.C:
		return errBusy
	case <-ctx.Done():
		return ctx.Err()
	}
	defer func() { <-d.slots }()
	return do()
}

func (d *door) leave() {
	<-d.inside
	if len(d.inside) == 0 {
		debug.FreeOSMemory()
	}
}

// compare reports whether a password is that of a hash. With no hash it takes as
// long and is wrong, so that an answer does not tell who has an account.
func (d *door) compare(ctx context.Context, typed, hash string) (match bool, err error) {
	err = d.compute(ctx, func() (err error) {
		known := hash != ""
		if !known {
			if hash, err = d.nobody(); err != nil {
				return err
			}
		}
		match, err = password.Matches(typed, hash)
		match = match && known
		return err
	})
	return match, err
}

// hash makes the hash of a new password.
func (d *door) hash(ctx context.Context, typed string) (hash string, err error) {
	err = d.compute(ctx, func() (err error) {
		hash, err = password.Hash(typed, d.cost)
		return err
	})
	return hash, err
}

// tooMany refuses a try that has to wait.
func tooMany(wait time.Duration) error {
	seconds := int(math.Ceil(wait.Seconds()))
	in := plan.Count(seconds, "second", "seconds")
	if seconds > 90 {
		in = plan.Count((seconds+59)/60, "minute", "minutes")
	}
	return huma.ErrorWithHeaders(
		huma.Error429TooManyRequests("Too many wrong tries to sign in. Try again in "+in+"."),
		http.Header{"Retry-After": {fmt.Sprint(seconds)}},
	)
}

// tryOf is how tries of an account are counted: by the login that was typed
// and, where the account was signed in before, by the network.
func tryOf(login, network string, known bool) string {
	login = strings.ToLower(strings.TrimSpace(login))
	if known {
		return login + " from " + network
	}
	return login
}
