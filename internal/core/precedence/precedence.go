// Package precedence decides by which channels and addresses a recipient is
// reached: the steps of a message, tried from the first on.
package precedence

import (
	"fmt"
	"slices"

	"upperlantern/internal/core/roster"
)

// Step is a rank in the channel precedence; its channels are used together.
type Step []roster.Channel

// Steps are tried in order. A channel in no step is switched off.
type Steps []Step

// Default returns the steps of an organisation that has not set its own.
func Default(u roster.Urgency) Steps {
	switch u {
	case roster.Timely:
		return Steps{{roster.Text, roster.Push}, {roster.Email}, {roster.Voice}}
	case roster.Emergency:
		return Steps{slices.Clone(roster.Channels)}
	default:
		return Steps{{roster.Email, roster.Push}, {roster.Text}, {roster.Voice}}
	}
}

// Validate refuses an unknown channel, an empty step and a channel on two steps.
func (s Steps) Validate() error {
	seen := map[roster.Channel]int{}
	for i, step := range s {
		if len(step) == 0 {
			return fmt.Errorf("step %d has no channel", i+1)
		}
		for _, c := range step {
			if !c.Valid() {
				return fmt.Errorf("step %d: %q is not a channel", i+1, c)
			}
			if at, twice := seen[c]; twice {
				return fmt.Errorf("%s is on step %d and again on step %d", c, at, i+1)
			}
			seen[c] = i + 1
		}
	}
	return nil
}

// On reports whether a channel is on any step.
func (s Steps) On(c roster.Channel) bool {
	return slices.ContainsFunc(s, func(step Step) bool { return slices.Contains(step, c) })
}

// Aside says why an address was put aside.
type Aside string

const (
	NoContent  Aside = "no-content"
	ChannelOff Aside = "channel-off"
	Dead       Aside = "dead"
	Withheld   Aside = "consent-withheld"
	Stopped    Aside = "carrier-stop"
	// Uncarried is a channel that nothing carries yet.
	Uncarried Aside = "not-carried"
	// Unconnected is a device that never said where push reaches it.
	Unconnected Aside = "not-connected"
)

// Rules are what a message says about addresses.
type Rules struct {
	Urgency roster.Urgency
	Steps   Steps
	Content func(roster.Channel) bool // whether the message has content for a channel
	Off     []roster.Channel          // that nothing carries
	// Room, if there is any, is where the chosen addresses are put; they are
	// then good until more are chosen.
	Room []roster.Address
}

// Judge returns why an address cannot be used, or "" when it can. An emergency
// overrides withheld consent, but never a dead address or a carrier's stop.
func (r Rules) Judge(a roster.Address) Aside {
	switch {
	case !r.Content(a.Channel):
		return NoContent
	case !r.Steps.On(a.Channel):
		return ChannelOff
	case slices.Contains(r.Off, a.Channel):
		return Uncarried
	case a.Unconnected():
		return Unconnected
	case a.Health == roster.Dead:
		return Dead
	case a.CarrierStop:
		return Stopped
	case a.Declines(r.Urgency):
		return Withheld
	}
	return ""
}

// Choose returns the addresses to use and the number, from 1, of the step that
// won: the first on which the recipient has a usable address. With firstOnly
// each channel uses just the first usable address. Step is 0 when none won.
func (r Rules) Choose(addresses []roster.Address, firstOnly bool) (step int, chosen []roster.Address) {
	for i, channels := range r.Steps {
		for _, channel := range channels {
			chosen = r.usable(chosen, addresses, channel, firstOnly)
		}
		if len(chosen) > 0 {
			return i + 1, chosen
		}
	}
	return 0, nil
}

// Wish returns the addresses of the channel that a recipient asked for first
// and the step it stands on. Step is 0 when there is no wish, when the message
// is not routine, or when none of those addresses can be used: then the steps
// decide.
func (r Rules) Wish(
	addresses []roster.Address, wish roster.Channel, firstOnly bool,
) (step int, chosen []roster.Address) {
	if r.Urgency != roster.Routine || wish == "" {
		return 0, nil
	}
	if chosen = r.usable(nil, addresses, wish, firstOnly); len(chosen) == 0 {
		return 0, nil
	}
	on := func(step Step) bool { return slices.Contains(step, wish) }
	return slices.IndexFunc(r.Steps, on) + 1, chosen
}

// Among returns the usable addresses of some channels and the first step on which one
// of them stands. Step is 0 when none of them can be used.
func (r Rules) Among(
	addresses []roster.Address, channels []roster.Channel, firstOnly bool,
) (step int, chosen []roster.Address) {
	for i, on := range r.Steps {
		for _, c := range on {
			if !slices.Contains(channels, c) {
				continue
			}
			before := len(chosen)
			chosen = r.usable(chosen, addresses, c, firstOnly)
			if step == 0 && len(chosen) > before {
				step = i + 1
			}
		}
	}
	return step, chosen
}

// usable adds the usable addresses of a channel to a list.
func (r Rules) usable(list, addresses []roster.Address, c roster.Channel, firstOnly bool) []roster.Address {
	for _, a := range addresses {
		if a.Channel != c || r.Judge(a) != "" {
			continue
		}
		if list == nil {
			list = slices.Grow(r.Room[:0], len(addresses))
		}
		list = append(list, a)
		if firstOnly {
			break
		}
	}
	return list
}
