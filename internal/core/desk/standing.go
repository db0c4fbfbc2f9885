package desk

import "time"

// Waits says for whom a thread waits.
type Waits string

const (
	Us    Waits = "us"
	Them  Waits = "them"
	Quiet Waits = "quiet"
)

// AllWaits lists every way to wait.
var AllWaits = []Waits{Us, Them, Quiet}

// Standing is how a thread stands with the shift.
type Standing struct {
	Waits  Waits
	Since  time.Time // it waits so
	Unread bool      // by the desk
	Back   time.Time // when it waits for us again; zero for never
}

// Silence is how long nothing is said until a thread that waits for them is quiet.
const Silence = 7 * 24 * time.Hour

// Heard is after somebody wrote to us. What they say further does not make what waits
// for us younger.
func (s Standing) Heard(at time.Time) Standing {
	if s.Waits != Us {
		s.Waits, s.Since = Us, at
	}
	s.Unread, s.Back = true, time.Time{}
	return s
}

// Told is after we wrote to them.
func (s Standing) Told(at time.Time) Standing { return Standing{Waits: Them, Since: at} }

// Settled is after somebody said that there is nothing to say.
func (s Standing) Settled(at time.Time) Standing { return Standing{Waits: Quiet, Since: at} }

// Left is after it was left for the next shift.
func (s Standing) Left(at time.Time) Standing {
	if s.Waits != Us {
		s.Waits, s.Since = Us, at
	}
	s.Unread = true
	return s
}

// Returns is after somebody asked for it back at a time: until then it waits for nobody.
func (s Standing) Returns(now, at time.Time) Standing {
	return Standing{Waits: Quiet, Since: now, Back: at}
}

// Passed is how it stands when some time has passed.
func (s Standing) Passed(now time.Time) Standing {
	switch {
	case !s.Back.IsZero() && !now.Before(s.Back):
		return Standing{Waits: Us, Since: s.Back, Unread: true}
	case s.Waits == Them && now.Sub(s.Since) >= Silence:
		return Standing{Waits: Quiet, Since: s.Since.Add(Silence), Back: s.Back}
	}
	return s
}
