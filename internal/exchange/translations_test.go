package exchange_test

import (
	"bytes"
	"encoding/xml"
	"os/exec"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"upperlantern/internal/core/lines"
	"upperlantern/internal/exchange"
)

func formatted() lines.Line {
	return lines.Line{Text: "Dear {1}, {2}come{/2} & see <this>. {3}", Places: []lines.Placeholder{
		{Kind: lines.Field, Name: "first name"}, {Kind: lines.Bold}, {Kind: lines.Braces, Name: "{4}"},
	}}
}

var sheet = exchange.XLIFF{File: "3", From: "en", To: "pl", Units: []exchange.XLIFFUnit{
	{ID: "a1", Notes: []string{"the email"}, Source: formatted(), Target: "{1}, {2}przyjdź{/2} i zobacz. {3}", State: exchange.Reviewed},
	{ID: "b2", Source: lines.Line{Text: "Thank you."}, State: exchange.Initial},
	{ID: "c3", Source: formatted(), Target: "{2}{1}{/2} می\u200cخواهم {3}", State: exchange.Translated},
}}

func TestXLIFFIsReadBackWithoutAChange(t *testing.T) {
	written := exchange.WriteXLIFF(sheet)
	got, err := exchange.ReadXLIFF(written)
	require.NoError(t, err)
	want := sheet
	want.Units = append([]exchange.XLIFFUnit(nil), sheet.Units...)
	for i := range want.Units {
		want.Units[i].Source.Places = nil // what they stand for is in the message
	}
	assert.Equal(t, want, got)
	if _, err := exec.LookPath("xmllint"); err == nil {
		c := exec.Command("xmllint", "--noout", "-")
		c.Stdin = bytes.NewReader(written)
		out, err := c.CombinedOutput()
		assert.NoError(t, err, string(out))
	}
}

// As other programs write it: spanning codes, several segments, marks of their own.
func TestXLIFFOfOtherPrograms(t *testing.T) {
	got, err := exchange.ReadXLIFF([]byte(`<?xml version="1.0"?>
<xliff xmlns="urn:oasis:names:tc:xliff:document:2.0" version="2.0" srcLang="en" trgLang="pl"><file id="f"><group id="g">
<unit id="u"><segment><source>One <pc id="1">two</pc>. </source><target>Jeden <pc id="1">dwa</pc>. </target></segment>
<ignorable><source> </source></ignorable>
<segment state="final"><source><mrk id="m" type="term">Three</mrk></source><target>Trzy<cp hex="0021"/></target></segment></unit>
</group></file></xliff>`))
	require.NoError(t, err)
	require.Len(t, got.Units, 1)
	assert.Equal(t, "One {1}two{/1}.  Three", got.Units[0].Source.Text)
	assert.Equal(t, "Jeden {1}dwa{/1}. Trzy!", got.Units[0].Target)
	assert.Equal(t, exchange.Final, got.Units[0].State)
}

func TestXLIFFThatCannotBeRead(t *testing.T) {
	bomb := `<!DOCTYPE x [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;">]>`
	good := string(exchange.WriteXLIFF(sheet))
	for name, c := range map[string]struct{ text, says string }{
		"nothing":                 {"", "no XLIFF"},
		"not XML":                 {"%PDF-1.7", "cannot be read"},
		"HTML":                    {"<html></html>", `begins with "html"`},
		"version 1.2":             {strings.Replace(good, `version="2.1"`, `version="1.2"`, 1), "save version 2.1"},
		"an entity bomb":          {strings.Replace(good, "<xliff", bomb+"<xliff", 1), "its own entities"},
		"an unknown entity":       {strings.Replace(good, "Thank", "&lol;", 1), "cannot be read"},
		"it breaks off":           {good[:len(good)/2], "cannot be read"},
		"a place of another kind": {strings.Replace(good, `<ph id="1"`, `<ph id="x-7"`, 1), "not of this program"},
		"nested without end":      {strings.Replace(good, "<source", strings.Repeat("<g>", 100)+"<source", 1), "nested"},
	} {
		_, err := exchange.ReadXLIFF([]byte(c.text))
		assert.ErrorContains(t, err, c.says, name)
	}
}

func TestTMXIsReadBackWithoutAChange(t *testing.T) {
	at := time.Date(2026, 11, 25, 8, 30, 0, 0, time.UTC)
	units := []exchange.TMXUnit{
		{From: "en", Source: formatted(), Targets: []exchange.TMXTarget{
			{Language: "pl", Text: "{2}{1}{/2} & <x> {3}", By: "Ola Nowak", At: at}, {Language: "ar", Text: "{1}، {2}تعالوا{/2} {3}", At: at},
		}},
		{From: "en", Source: lines.Line{Text: "Thank you."}, Targets: []exchange.TMXTarget{{Language: "zh-Hans", Text: "谢谢。", At: at}}},
	}
	var b bytes.Buffer
	w, err := exchange.NewTMX(&b, "en")
	require.NoError(t, err)
	for _, u := range units {
		require.NoError(t, w.Add(u))
	}
	require.NoError(t, w.End())
	require.NoError(t, xml.Unmarshal(b.Bytes(), new(struct {
		XMLName xml.Name `xml:"tmx"`
	})))
	var got []exchange.TMXUnit
	require.NoError(t, exchange.ReadTMX(b.Bytes(), func(u exchange.TMXUnit) error {
		got = append(got, u)
		return nil
	}))
	assert.Equal(t, units, got)
}

func TestTMXOfOtherPrograms(t *testing.T) {
	var got []exchange.TMXUnit
	err := exchange.ReadTMX([]byte(`<?xml version="1.0"?><!DOCTYPE tmx SYSTEM "tmx14.dtd">
<tmx version="1.4"><header srclang="EN-GB"/><body>
<tu><note>x</note><tuv xml:lang="pl"><seg>Dzień dobry <bpt i="7">&lt;b></bpt>dziś<ept i="7">&lt;/b></ept></seg></tuv>
<tuv xml:lang="en-GB"><seg>Hello <bpt i="7">&lt;b></bpt>today<ept i="7">&lt;/b></ept></seg></tuv></tu>
<tu><tuv xml:lang="en-GB"><seg>alone</seg></tuv></tu>
</body></tmx>`), func(u exchange.TMXUnit) error {
		got = append(got, u)
		return nil
	})
	require.NoError(t, err)
	require.Len(t, got, 1, "a line without a target is nothing to remember")
	assert.Equal(t, "Hello {1}today{/1}", got[0].Source.Text)
	assert.Equal(t, "en-GB", got[0].From)
	assert.Equal(t, "Dzień dobry {1}dziś{/1}", got[0].Targets[0].Text)
}

func TestTMXThatCannotBeRead(t *testing.T) {
	for text, says := range map[string]string{
		"": "no TMX", "<xliff/>": "begins with", "<tmx><body><tu>": "cannot be read",
		`<!DOCTYPE tmx [<!ENTITY a "b">]><tmx/>`: "its own entities",
	} {
		assert.ErrorContains(t, exchange.ReadTMX([]byte(text), func(exchange.TMXUnit) error { return nil }), says, text)
	}
}

func FuzzXLIFF(f *testing.F) {
	f.Add(exchange.WriteXLIFF(sheet))
	f.Fuzz(func(t *testing.T, content []byte) {
		x, err := exchange.ReadXLIFF(content)
		if err != nil {
			return
		}
		for _, u := range x.Units {
			if strings.ContainsRune(u.Target, 0) {
				t.Fatalf("%q", u.Target)
			}
		}
	})
}

func FuzzTMX(f *testing.F) {
	f.Add([]byte(`<tmx><header srclang="en"/><body><tu><tuv xml:lang="en"><seg>a<ph x="1">b</ph></seg></tuv><tuv xml:lang="pl"><seg>c</seg></tuv></tu></body></tmx>`))
	f.Fuzz(func(t *testing.T, content []byte) {
		_ = exchange.ReadTMX(content, func(u exchange.TMXUnit) error {
			if u.Source.Text == "" || len(u.Targets) == 0 {
				t.Fatalf("%+v", u)
			}
			return nil
		})
	})
}
