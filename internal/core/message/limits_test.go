package message_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
)

// Each limit: what is just within it is valid, what is just beyond it is not.
func TestLimits(t *testing.T) {
	files := func(n int) []attachment.File { return make([]attachment.File, n) }
	long := func(n int) string { return strings.Repeat("ł", n) }
	for _, c := range []struct {
		name    string
		within  func(*message.Draft)
		beyond  func(*message.Draft)
		problem string
	}{
		{
			"minutes until the next step", func(d *message.Draft) { d.MoveOn.Minutes = message.LongestSpread },
			func(d *message.Draft) { d.MoveOn.Minutes = message.LongestSpread + 1 }, "moveOn: 1441 minutes",
		},
		{"no time backwards", func(*message.Draft) {}, func(d *message.Draft) { d.MoveOn.Minutes = -1 }, "moveOn: -1"},
		{
			"minutes over which it is spread", func(d *message.Draft) { d.Spread = message.LongestSpread },
			func(d *message.Draft) { d.Spread = message.LongestSpread + 1 }, "spread: 1441 minutes",
		},
		{"no spread backwards", func(*message.Draft) {}, func(d *message.Draft) { d.Spread = -1 }, "spread: -1"},
		{
			"times of channels", func(d *message.Draft) { d.Times = map[roster.Channel]time.Time{roster.Text: {}} },
			func(d *message.Draft) { d.Times = map[roster.Channel]time.Time{"fax": {}} }, `times: "fax" is not a channel`,
		},
		{
			"the sound of a push", func(d *message.Draft) { d.Push.Sound = message.Interrupts },
			func(d *message.Draft) { d.Push.Sound = "loud" }, `push: "loud" is neither`,
		},
		{
			"quiet is a sound too", func(d *message.Draft) { d.Push.Sound = message.Quiet },
			func(d *message.Draft) { d.Push.Sound = "quieter" }, `push: "quieter" is neither`,
		},
		{
			"two keys of a call", func(d *message.Draft) { d.Voice.RepeatKey, d.Voice.ConfirmKey = "1", "2" },
			func(d *message.Draft) { d.Voice.RepeatKey, d.Voice.ConfirmKey = "1", "1" }, "key 1 cannot both repeat and confirm",
		},
		{
			"a subject", func(d *message.Draft) { d.Subject = long(message.LongestSubject) },
			func(d *message.Draft) { d.Subject = long(message.LongestSubject + 1) }, "subject: ",
		},
		{
			"a text", func(d *message.Draft) { d.Text = long(message.LongestBody) },
			func(d *message.Draft) { d.Text = long(message.LongestBody + 1) }, "text: ",
		},
		{
			"files", func(d *message.Draft) { d.Files = files(attachment.MostFiles) },
			func(d *message.Draft) { d.Files = files(attachment.MostFiles + 1) }, "files: 21",
		},
		{
			"a recording", func(d *message.Draft) { d.Voice.Recording = &attachment.File{Type: "audio/wav"} },
			func(d *message.Draft) { d.Voice.Recording = &attachment.File{Name: "x.pdf", Type: "application/pdf"} },
			"voice: x.pdf is no recording",
		},
	} {
		t.Run(c.name, func(t *testing.T) {
			within, beyond := message.Empty(), message.Empty()
			c.within(&within)
			c.beyond(&beyond)
			require.NoError(t, within.Validate())
			require.ErrorContains(t, beyond.Validate(), c.problem)
		})
	}
}

func TestWhatThereIsForAChannel(t *testing.T) {
	sound := &attachment.File{Type: "audio/wav"}
	for _, c := range []struct {
		name    string
		content message.Content
		has     []roster.Channel
	}{
		{"nothing", message.Content{}, nil},
		{"a subject alone", message.Content{Subject: "S"}, nil},
		{"an email, which the others follow", message.Content{Email: rich.Lines("E")}, roster.Channels},
		{"an email with an empty text", message.Content{Email: rich.Lines("E"), OwnText: true}, []roster.Channel{roster.Email}},
		{"a recording", message.Content{Voice: message.Voice{Recording: sound}}, []roster.Channel{roster.Voice}},
		{"a call of its own", message.Content{Voice: message.Voice{Own: true, Text: "V"}}, []roster.Channel{roster.Voice}},
		{"a title of its own", message.Content{Push: message.Push{Own: true, Title: "P"}}, []roster.Channel{roster.Push}},
		{"words of its own", message.Content{Push: message.Push{Own: true, Body: "P"}}, []roster.Channel{roster.Push}},
		{"a title that is not used", message.Content{Push: message.Push{Title: "P"}}, nil},
	} {
		t.Run(c.name, func(t *testing.T) {
			var has []roster.Channel
			for _, channel := range roster.Channels {
				if c.content.Has(channel) {
					has = append(has, channel)
				}
			}
			assert.Equal(t, c.has, has)
			assert.Equal(t, len(has) == 0, c.content.Wordless())
		})
	}
}

func TestWhatAPushOpens(t *testing.T) {
	for link, opens := range map[string]bool{
		"": true, "https://example.org": true, "http://example.org/a": true, "https://example.org/{{group}}": true,
		"www.example.org": false, "https://": false, "ftp://example.org": false, "javascript:alert(1)": false, "::": false,
	} {
		assert.Equal(t, opens, message.Push{Link: link}.Opens(), link)
	}
}

func TestWhetherAPushIsQuiet(t *testing.T) {
	assert.True(t, message.Push{}.Quiet(roster.Routine))
	assert.False(t, message.Push{}.Quiet(roster.Timely))
	assert.True(t, message.Push{Sound: message.Quiet}.Quiet(roster.Emergency))
	assert.False(t, message.Push{Sound: message.Interrupts}.Quiet(roster.Routine))
}

func TestWhenItLeaves(t *testing.T) {
	soonest := time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)
	before, later, latest := soonest.Add(-time.Hour), soonest.Add(time.Hour), soonest.Add(2*time.Hour)
	at := func(send *time.Time, times map[roster.Channel]time.Time) message.Draft {
		return message.Draft{Routing: message.Routing{SendAt: send, Times: times}}
	}
	assert.Equal(t, soonest, at(nil, nil).Leaves(roster.Text, soonest))
	assert.Equal(t, soonest, at(&before, nil).Leaves(roster.Text, soonest), "not before the hold is over")
	assert.Equal(t, later, at(&later, nil).Leaves(roster.Text, soonest))
	own := at(&later, map[roster.Channel]time.Time{roster.Voice: latest})
	assert.Equal(t, latest, own.Leaves(roster.Voice, soonest))
	assert.Equal(t, later, own.Leaves(roster.Text, soonest))
	assert.Equal(t, later, own.Soonest(soonest))
	first := at(&latest, map[roster.Channel]time.Time{roster.Push: later})
	assert.Equal(t, later, first.Soonest(soonest), "whichever channel is first")
}

func TestALongBeginningIsCut(t *testing.T) {
	sixty := strings.Repeat("x", 60)
	assert.Equal(t, sixty, message.Content{Text: sixty}.Title())
	assert.Equal(t, sixty+"…", message.Content{Text: sixty + "y"}.Title())
}

func TestAPictureThatIsShownIsAmongTheFiles(t *testing.T) {
	c := message.Content{Email: rich.Doc{Content: []rich.Node{{Type: "image", Attrs: &rich.Attrs{Src: "file:" + strings.Repeat("a", 64)}}}}}
	require.ErrorContains(t, c.Validate(), "a picture that is not among the files")
	c.Files = []attachment.File{{Hash: strings.Repeat("a", 64), Type: "image/png"}}
	require.NoError(t, c.Validate())
	c.Files[0].Type = "text/plain"
	require.Error(t, c.Validate(), "one that is no picture")
	assert.Len(t, c.Everything(), 1)
	c.Voice.Recording = &attachment.File{Name: "call.wav"}
	assert.Len(t, c.Everything(), 2)
}

func TestFilesAndRecordingsForALanguage(t *testing.T) {
	wav := func(tag string, seconds int) message.Recording {
		return message.Recording{File: attachment.File{Name: "call.wav", Type: "audio/wav", Language: tag}, Seconds: seconds}
	}
	for _, c := range []struct {
		name    string
		content message.Content
		says    string // "" when it is fine
	}{
		{"a file for a language", message.Content{Files: []attachment.File{{Name: "a.pdf", Language: "zh-Hant-HK"}}}, ""},
		{"a file for no language", message.Content{Files: []attachment.File{{Name: "a.pdf", Language: "polish please"}}}, "is no language"},
		{"a tag that is not as it is kept", message.Content{Files: []attachment.File{{Name: "a.pdf", Language: "PL"}}}, "is no language"},
		{"a recording for each", message.Content{Voice: message.Voice{Others: []message.Recording{wav("pl", 9), wav("so", 9)}}}, ""},
		{"two for one", message.Content{Voice: message.Voice{Others: []message.Recording{wav("pl", 9), wav("pl", 9)}}}, "one language of its own"},
		{"one for nobody", message.Content{Voice: message.Voice{Others: []message.Recording{wav("", 9)}}}, "one language of its own"},
		{"one without a length", message.Content{Voice: message.Voice{Others: []message.Recording{wav("pl", 0)}}}, "how long"},
		{"one that is no sound", message.Content{Voice: message.Voice{Others: []message.Recording{
			{File: attachment.File{Name: "call.pdf", Type: "application/pdf", Language: "pl"}, Seconds: 9},
		}}}, "is no recording"},
	} {
		t.Run(c.name, func(t *testing.T) {
			err := c.content.Validate()
			if c.says == "" {
				require.NoError(t, err)
				assert.Len(t, c.content.Everything(), len(c.content.Files)+len(c.content.Voice.Others))
				return
			}
			require.ErrorContains(t, err, c.says)
		})
	}
}
