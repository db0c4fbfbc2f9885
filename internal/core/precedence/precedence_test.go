package precedence_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/roster"
)

func everything(roster.Channel) bool { return true }

func address(c roster.Channel, value string) roster.Address {
	return roster.Address{Channel: c, Value: value, Health: roster.Untried}
}

// The people of the worked example: Ana has three mail addresses and a
// mobile, Bo a mobile, Cy a landline, Di nothing.
var (
	ana = []roster.Address{
		address(roster.Email, "ana1"), address(roster.Email, "ana2"), address(roster.Text, "ana"),
		address(roster.Email, "ana3"), address(roster.Voice, "ana"),
	}
	bo = []roster.Address{address(roster.Text, "bo"), address(roster.Voice, "bo")}
	cy = []roster.Address{address(roster.Voice, "cy")}
)

func values(list []roster.Address) []string {
	var v []string
	for _, a := range list {
		v = append(v, string(a.Channel)+":"+a.Value)
	}
	return v
}

func TestChooseWorkedExample(t *testing.T) {
	apart := precedence.Steps{{roster.Email}, {roster.Text}, {roster.Voice}}
	together := precedence.Steps{{roster.Email, roster.Text}, {roster.Voice}}
	for _, c := range []struct {
		name      string
		steps     precedence.Steps
		addresses []roster.Address
		first     bool
		step      int
		want      []string
	}{
		{"Ana: three emails, no text", apart, ana, false, 1, []string{"email:ana1", "email:ana2", "email:ana3"}},
		{"Bo: one text", apart, bo, false, 2, []string{"text:bo"}},
		{"Cy: one call", apart, cy, false, 3, []string{"voice:cy"}},
		{"Di: left out", apart, nil, false, 0, nil},
		{"email and text on one step: Ana gets three emails and one text", together, ana, false, 1,
			[]string{"email:ana1", "email:ana2", "email:ana3", "text:ana"}},
		{"the first address only", apart, ana, true, 1, []string{"email:ana1"}},
		{"a channel in no step is off", precedence.Steps{{roster.Voice}}, bo, false, 1, []string{"voice:bo"}},
		{"no step at all", precedence.Steps{}, ana, false, 0, nil},
	} {
		t.Run(c.name, func(t *testing.T) {
			rules := precedence.Rules{Urgency: roster.Routine, Steps: c.steps, Content: everything}
			step, chosen := rules.Choose(c.addresses, c.first)
			assert.Equal(t, c.step, step)
			assert.Equal(t, c.want, values(chosen))
		})
	}
}

func TestJudge(t *testing.T) {
	steps := precedence.Steps{{roster.Email, roster.Push}, {roster.Text}}
	noText := func(c roster.Channel) bool { return c != roster.Text }
	for _, c := range []struct {
		name    string
		urgency roster.Urgency
		content func(roster.Channel) bool
		address roster.Address
		want    precedence.Aside
	}{
		{"a device that never said where it is", roster.Emergency, everything, roster.Address{Channel: roster.Push}, precedence.Unconnected},
		{"usable", roster.Routine, everything, roster.Address{Channel: roster.Email}, ""},
		{"nothing written for it", roster.Routine, noText, roster.Address{Channel: roster.Text}, precedence.NoContent},
		{"switched off", roster.Routine, everything, roster.Address{Channel: roster.Voice}, precedence.ChannelOff},
		{"dead", roster.Emergency, everything, roster.Address{Channel: roster.Email, Health: roster.Dead}, precedence.Dead},
		{"failing is still tried", roster.Routine, everything, roster.Address{Channel: roster.Email, Health: roster.Failing}, ""},
		{"declines routine", roster.Routine, everything, roster.Address{Channel: roster.Email, DeclinesRoutine: true}, precedence.Withheld},
		{"but gets timely", roster.Timely, everything, roster.Address{Channel: roster.Email, DeclinesRoutine: true}, ""},
		{"an emergency overrides consent", roster.Emergency, everything, roster.Address{Channel: roster.Email, DeclinesRoutine: true, DeclinesTimely: true}, ""},
		{"but not a carrier's stop", roster.Emergency, everything, roster.Address{Channel: roster.Text, CarrierStop: true}, precedence.Stopped},
	} {
		t.Run(c.name, func(t *testing.T) {
			rules := precedence.Rules{Urgency: c.urgency, Steps: steps, Content: c.content}
			assert.Equal(t, c.want, rules.Judge(c.address))
		})
	}
}

// A channel that nothing carries is as if it were on no step, also in an emergency.
func TestAChannelWithoutACarrier(t *testing.T) {
	rules := precedence.Rules{
		Urgency: roster.Emergency, Content: everything, Off: []roster.Channel{roster.Text},
		Steps: precedence.Steps{{roster.Text}, {roster.Voice}},
	}
	assert.Equal(t, precedence.Uncarried, rules.Judge(bo[0]))
	assert.Equal(t, precedence.Uncarried, rules.Judge(roster.Address{Channel: roster.Text, Health: roster.Dead}))
	step, chosen := rules.Choose(bo, false)
	assert.Equal(t, 2, step)
	assert.Equal(t, []string{"voice:bo"}, values(chosen))
	step, _ = rules.Wish(bo, roster.Text, false)
	assert.Zero(t, step)
}

func TestDefaults(t *testing.T) {
	for _, u := range roster.Urgencies {
		steps := precedence.Default(u)
		require.NoError(t, steps.Validate())
		for _, c := range roster.Channels {
			assert.True(t, steps.On(c), "%s is on a step for %s", c, u)
		}
	}
	assert.Len(t, precedence.Default(roster.Emergency), 1, "an emergency uses everything at once")
}

func TestValidate(t *testing.T) {
	for want, steps := range map[string]precedence.Steps{
		"step 2 has no channel":                  {{roster.Email}, {}},
		`step 1: "pigeon" is not a channel`:      {{"pigeon"}},
		"email is on step 1 and again on step 2": {{roster.Email}, {roster.Text, roster.Email}},
	} {
		assert.EqualError(t, steps.Validate(), want)
	}
}

func TestWish(t *testing.T) {
	steps := precedence.Steps{{roster.Email, roster.Text}, {roster.Voice}}
	refused := []roster.Address{{Channel: roster.Text, Value: "ana", DeclinesRoutine: true}}
	for _, c := range []struct {
		name      string
		urgency   roster.Urgency
		steps     precedence.Steps
		addresses []roster.Address
		wish      roster.Channel
		first     bool
		step      int
		want      []string
	}{
		{"text first, though email stands beside it", roster.Routine, steps, ana, roster.Text, false, 1, []string{"text:ana"}},
		{"a channel of a later step", roster.Routine, steps, cy, roster.Voice, false, 2, []string{"voice:cy"}},
		{"the first address only", roster.Routine, steps, ana, roster.Email, true, 1, []string{"email:ana1"}},
		{"nobody without a wish", roster.Routine, steps, ana, "", false, 0, nil},
		{"not for timely messages", roster.Timely, steps, ana, roster.Text, false, 0, nil},
		{"not for emergencies", roster.Emergency, steps, ana, roster.Text, false, 0, nil},
		{"no address of the kind", roster.Routine, steps, bo, roster.Email, false, 0, nil},
		{"a declined address", roster.Routine, steps, refused, roster.Text, false, 0, nil},
		{"a channel that is off", roster.Routine, precedence.Steps{{roster.Email}}, ana, roster.Text, false, 0, nil},
	} {
		t.Run(c.name, func(t *testing.T) {
			rules := precedence.Rules{Urgency: c.urgency, Steps: c.steps, Content: everything}
			step, chosen := rules.Wish(c.addresses, c.wish, c.first)
			assert.Equal(t, c.step, step)
			assert.Equal(t, c.want, values(chosen))
		})
	}
}
