package lines

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/message"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
)

func written(email rich.Doc) Written {
	return Written{Content: message.Content{Email: email}, Language: "en"}
}

func texts(w Written) []string {
	var list []string
	for _, l := range Cut(w) {
		list = append(list, l.Text)
	}
	return list
}

func text(words string, marks ...string) rich.Node {
	n := rich.Node{Type: rich.Text, Text: words}
	for _, m := range marks {
		mark := rich.Mark{Type: m}
		if strings.HasPrefix(m, "http") {
			mark = rich.Mark{Type: rich.Link, Attrs: &rich.Attrs{Href: m}}
		}
		n.Marks = append(n.Marks, mark)
	}
	return n
}

func paragraph(nodes ...rich.Node) rich.Doc {
	return rich.Doc{Content: []rich.Node{{Type: rich.Paragraph, Content: nodes}}}
}

// Rule “Lines and copies” 1.
func TestAMessageIsCutIntoLines(t *testing.T) {
	for _, c := range []struct {
		name string
		doc  rich.Doc
		want []string
	}{
		{"nothing", rich.Doc{}, nil},
		{"blocks and sentences", rich.Lines("Meet at 8:30. Bring a hat!\n\nSee you"), []string{"Meet at 8:30.", "Bring a hat!", "See you"}},
		{"a field is a place", rich.Lines("Dear {{first name}}, come."), []string{"Dear {1}, come."}},
		{"other words are a line", rich.Lines("We meet {{dependents, else your rower}}."), []string{"We meet {1}.", "your rower"}},
		{"other words of a field alone", rich.Lines("{{dependents, else your rower}}"), []string{"your rower"}},
		{"an abbreviation ends nothing", rich.Lines("Ask Mr. Osei. He knows."), []string{"Ask Mr. Osei.", "He knows."}},
		{"a sentence may begin with a field", rich.Lines("Doors open at 17:45. {{dependents}} should come."), []string{"Doors open at 17:45.", "{1} should come."}},
		{"a decimal ends nothing", rich.Lines("It costs 4.50 now. Pay."), []string{"It costs 4.50 now.", "Pay."}},
		{"no letters, an address, a number", rich.Lines("—\n8:30\n{{unit}}\nhttps://club.example/a\noffice@club.example\n+44 7700 900123"), nil},
		{"the same line once", rich.Lines("Thank you.\nThank you."), []string{"Thank you."}},
		{"what somebody typed in braces", rich.Lines("Boat {1} waits"), []string{"Boat {1} waits"}},
		{
			"formatting is around its words",
			paragraph(text("Come "), text("now", rich.Bold), text(", see "), text("the plan", "https://club.example/plan"), text(".")),
			[]string{"Come {1}now{/1}, see {2}the plan{/2}."},
		},
		{
			"formatting over two sentences is in both", paragraph(text("Stop. Wait here.", rich.Bold)),
			[]string{"{1}Stop.{/1}", "{1}Wait here.{/1}"},
		},
		{"a break parts lines", paragraph(text("One"), rich.Node{Type: rich.Break}, text("two")), []string{"One", "two"}},
		{"Chinese", rich.Lines("请带帽子。我们八点见。"), []string{"请带帽子。", "我们八点见。"}},
	} {
		t.Run(c.name, func(t *testing.T) { assert.Equal(t, c.want, texts(written(c.doc))) })
	}
}

func TestEveryFaceThatHasWordsOfItsOwnIsCut(t *testing.T) {
	w := Written{Content: message.Content{
		Subject: "Outing moved", Email: rich.Lines("Main text"), Text: "Follows",
		Voice: message.Voice{Own: true, Text: "Spoken"}, Push: message.Push{Own: true, Title: "Title", Body: "Shown"},
	}, Signature: roster.Signature{Prefix: "[Juniors]", Footer: "Quillmere office"}}
	assert.Equal(t, []string{"Outing moved", "Main text", "Spoken", "Title", "Shown", "[Juniors]", "Quillmere office"}, texts(w))
	w.OwnText, w.Voice.Own, w.Push.Own = true, false, false
	assert.Equal(t, []string{"Outing moved", "Main text", "Follows", "[Juniors]", "Quillmere office"}, texts(w))
}

// Rule 2.
func TestALineIsKnownByItsWordsAndFields(t *testing.T) {
	key := func(doc rich.Doc) string { return Cut(written(doc))[0].Key() }
	one := key(rich.Lines("Dear {{first name}}, come."))
	assert.Equal(t, one, key(rich.Lines("Dear {{first name, else friend}}, come.")))
	assert.NotEqual(t, one, key(rich.Lines("Dear {{last name}}, come.")))
	assert.NotEqual(t, one, key(rich.Lines("Dear {{first name}}, go.")))
	assert.NotEqual(t, one, key(rich.Lines("Dear {1}, come.")))
	linked := func(to string) rich.Doc { return paragraph(text("See "), text("here", to)) }
	assert.Equal(t, key(linked("https://a.example")), key(linked("https://b.example")))
}

func TestAMessageIsPutTogetherInAnotherLanguage(t *testing.T) {
	w := written(paragraph(
		text("Come "), text("now", rich.Bold), text(", {{first name, else friend}}. See "), text("the plan", "https://club.example/plan"), text("."),
	))
	w.Subject = "Come now"
	targets := map[string]string{
		"Come {1}now{/1}, {2}.": "{2}, przyjdź {1}teraz{/1}.", "See {1}the plan{/1}.": "Zobacz {1}plan{/1}.", "friend": "przyjacielu",
		"Come now": "Przyjdź teraz",
	}
	out := Put(w, func(_ Face, l Line) (string, bool) { t, ok := targets[l.Text]; return t, ok })
	assert.Equal(t, "Przyjdź teraz", out.Subject)
	assert.Equal(t, paragraph(
		text("{{first name, else przyjacielu}}, przyjdź "), text("teraz", rich.Bold), text(". Zobacz "), text("plan", "https://club.example/plan"), text("."),
	), out.Email)
}

func TestATargetMayLosePlacesAndHaveStrangeOnes(t *testing.T) {
	w := written(paragraph(text("Come "), text("now", rich.Bold), text(", {{unit}}.")))
	for target, want := range map[string]string{
		"Teraz {9}{/9}": "Teraz {9}{/9}", "{1}{1}Teraz{/1} i tu": "Teraz i tu", "{/1}Teraz{2}": "Teraz{{unit}}", "{1}Teraz": "Teraz",
	} {
		out := Put(w, func(Face, Line) (string, bool) { return target, true })
		require.NoError(t, out.Email.Validate())
		assert.Equal(t, want, out.Email.Plain(), target)
	}
}

func TestAWideFullStopNeedsNoSpaceBehindIt(t *testing.T) {
	say := func(_ Face, l Line) (string, bool) {
		return map[string]string{"Come.": "来。", "Wait.": "等。", "Go.": "走."}[l.Text], true
	}
	for original, want := range map[string]string{
		"Come. Wait.": "来。等。", "Come.  Wait. Go.": "来。等。走.", "Go. Come.": "走. 来。",
	} {
		assert.Equal(t, want, Put(written(rich.Lines(original)), say).Email.Plain(), original)
	}
}

func TestThePlacesOfATargetAreListed(t *testing.T) {
	assert.Equal(t, []int{2, 1, -1}, Used("{2} a {1}b{/1} {x}"))
	assert.Empty(t, Used("no places"))
	assert.Equal(t, "a b", Words("a {1} b{/1}"))
}

func TestWhatIsSaidAsItIsStaysAsItIs(t *testing.T) {
	pieces := []string{"Come. ", "Bring a hat!", " {{first name}}", "{{unit, else us}} ", "Mr. ", "{1}", "{/2}", "8:30", "…", "请带。", "  ", "\u0645\u0631\u062d\u0628\u0627. "}
	rapid.Check(t, func(t *rapid.T) {
		var d rich.Doc
		for range rapid.IntRange(0, 4).Draw(t, "blocks") {
			n := rich.Node{Type: rich.Paragraph}
			for range rapid.IntRange(1, 5).Draw(t, "texts") {
				piece := text(strings.Join(rapid.SliceOfN(rapid.SampledFrom(pieces), 1, 4).Draw(t, "words"), ""))
				for _, m := range []string{rich.Bold, rich.Italic} {
					if rapid.Bool().Draw(t, m) {
						piece.Marks = append(piece.Marks, rich.Mark{Type: m})
					}
				}
				n.Content = append(n.Content, piece)
			}
			d.Content = append(d.Content, n)
		}
		same := Put(written(d), func(_ Face, l Line) (string, bool) { return l.Text, true })
		left := Put(written(d), func(Face, Line) (string, bool) { return "", false })
		for _, out := range []Written{same, left} {
			require.Equal(t, d.Plain(), out.Email.Plain())
			require.Equal(t, joined(d).HTML(nil), out.Email.HTML(nil))
		}
	})
}

// joined is a document as it would be typed: texts of one format are one.
func joined(d rich.Doc) rich.Doc {
	return d.MapLines(func(nodes []rich.Node) []rich.Node {
		var b builder
		for _, n := range nodes {
			b.add(n.Text, n.Marks)
		}
		return b.nodes
	})
}

// Rule: joiners that a script needs stay, what nobody sees goes.
func TestTargetsAreCleaned(t *testing.T) {
	for text, want := range map[string]string{
		" two\nlines\t": "two lines", "zero\u200bwidth\u200d\ufeff": "zerowidth", "می\u200cخواهم": "می\u200cخواهم",
		"क्\u200dष": "क्\u200dष", "10\u00a0km": "10\u00a0km", "bell\a": "bell",
	} {
		assert.Equal(t, want, CleanTarget(text))
	}
}

// The answers of a question are lines; what is said of them goes back to their place.
func TestTheAnswersOfAQuestionAreLines(t *testing.T) {
	w := Written{Language: "en", Content: message.Content{Subject: "Safe?", Question: &message.Question{
		Choices: []message.FixedAnswer{{Words: "I am safe", Means: message.Counts}, {Words: "2"}}, Filled: "Thank you.",
	}}}
	var said []string
	for _, l := range Cut(w) {
		said = append(said, l.Text)
	}
	assert.Equal(t, []string{"Safe?", "I am safe", "Thank you."}, said)
	put := Put(w, func(_ Face, l Line) (string, bool) { return "[" + l.Text + "]", true })
	assert.Equal(t, "[I am safe]", put.Question.Choices[0].Words)
	assert.Equal(t, message.Counts, put.Question.Choices[0].Means)
	assert.Equal(t, "[Thank you.]", put.Question.Filled)
	assert.Equal(t, "I am safe", w.Question.Choices[0].Words, "the original is not touched")
}
