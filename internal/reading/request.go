package reading

import (
	"cmp"
	"slices"
	"time"

	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/copies"
	"upperlantern/internal/core/lines"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/phrase"
	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
	"upperlantern/internal/store"
)

// request is the message by which a reader is asked, with its copy.
type request struct {
	draft    message.Draft
	from     string          // the language of the draft, BCP 47
	says     message.Content // the draft in the reader's language
	language string          // that of the reader
}

// requestOf is the message to one reader: in the language of the organisation, with a
// copy in theirs, by every channel that can show a link.
func requestOf(o store.Organisation, r store.Reading, c contact, address string) request {
	to := audience.Part{Kind: audience.ByPeople, People: []roster.PersonID{c.person}}
	if c.person == 0 {
		to = audience.Part{Kind: audience.ByAddresses, Addresses: []string{c.mailbox}}
	}
	reads := cmp.Or(c.language, r.Language)
	words := phrase.In(reads, o.Language)
	q := request{from: o.Language, language: reads, says: asks(words, o, r, address)}
	if !copies.SameLanguage(words.Tag, reads) {
		q.language = o.Language
	}
	q.draft = message.Draft{Content: asks(phrase.In(o.Language), o, r, address), Routing: message.Routing{
		Urgency: roster.Timely, Steps: showing(o.Steps),
		Audience: audience.Audience{Receivers: audience.Themselves, Parts: []audience.Part{to}},
	}}
	return q
}

// showing are the steps of the organisation without the channel that cannot show a link.
func showing(set map[roster.Urgency]precedence.Steps) precedence.Steps {
	steps, ok := set[roster.Timely]
	if !ok {
		steps = precedence.Default(roster.Timely)
	}
	var list precedence.Steps
	for _, s := range steps {
		s = slices.DeleteFunc(slices.Clone(s), func(c roster.Channel) bool { return c == roster.Voice })
		if len(s) > 0 {
			list = append(list, s)
		}
	}
	return list
}

func asks(w phrase.Words, o store.Organisation, r store.Reading, address string) message.Content {
	language := phrase.LanguageName(w.Tag, r.Language)
	return message.Content{
		Subject: w.Say("reading subject", "language", language),
		Email: rich.Lines(
			w.Say("reading request", "organisation", o.Name, "language", language) + "\n" +
				w.Say("reading link", "date", phrase.Date(w.Tag, LastDay(o, r.Until))) + "\n" + address,
		),
		Push: message.Push{Link: address},
	}
}

// LastDay is when a link ends, on the clocks of the organisation.
func LastDay(o store.Organisation, until time.Time) time.Time {
	zone, err := time.LoadLocation(o.TimeZone)
	if err != nil {
		return until
	}
	return until.In(zone)
}

// filled are the lines of the request's copy; none when the languages are the same or
// the two do not have the same lines.
func (q request) filled(by string, now time.Time) []store.Filled {
	if copies.SameLanguage(q.from, q.language) {
		return nil
	}
	originals := lines.Cut(lines.Written{Content: q.draft.Content, Language: q.from})
	targets := lines.Cut(lines.Written{Content: q.says, Language: q.language})
	if len(originals) != len(targets) {
		return nil
	}
	list := make([]store.Filled, len(originals))
	for i, l := range originals {
		list[i] = store.Filled{Target: copies.Target{
			Original: l.Line, Text: targets[i].Text, Source: copies.Memory, By: by, At: now, CheckedBy: by, CheckedAt: now,
		}}
	}
	return list
}
