// Package message holds what a sender writes.
package message

import (
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/delivery"
	"upperlantern/internal/core/entry"
	"upperlantern/internal/core/phrase"
	"upperlantern/internal/core/precedence"
	"upperlantern/internal/core/rich"
	"upperlantern/internal/core/roster"
)

// Longest content that is kept, in characters.
const (
	LongestSubject = 300
	LongestBody    = 20_000
)

// Content is what a message says: its main text, the faces of it that have words of
// their own, and its files. The zero value says nothing.
type Content struct {
	Subject string            `json:"subject" words:"the subject"`
	Email   rich.Doc          `json:"email" words:"the email" doc:"The main text, and the body of the email: lines of text, or a formatted document"`
	Files   []attachment.File `json:"files,omitempty" words:"the files" maxItems:"20" doc:"That go with the email, those shown in it among them"`
	OwnText bool              `json:"ownText" words:"the text" doc:"The text no longer follows the email"`
	Text    string            `json:"text" words:"the text" doc:"The text to send when ownText is set"`
	Voice   Voice             `json:"voice,omitzero" words:"the call"`
	Push    Push              `json:"push,omitzero" words:"the push"`
	// Question is nil for a message that asks nothing.
	Question *Question `json:"question,omitempty" words:"the question" doc:"With fixed answers"`
}

// Routing is whom a message is for and how it goes out. The zero value is addressed
// to nobody.
type Routing struct {
	Urgency  roster.Urgency    `json:"urgency" words:"the urgency"`
	Audience audience.Audience `json:"audience" words:"who gets it"`
	// From overrides under which name and numbers recipients hear from us.
	From roster.Identity `json:"from,omitzero" words:"the sender" doc:"Instead of what the rule of their groups gives"`
	// ReplyTo is "" while replies come back to the organisation's mailbox.
	ReplyTo string `json:"replyTo,omitempty" words:"where replies go" maxLength:"254" doc:"The mailbox to which replies to the email go, if it is the sender's own"`
	// Desk is 0 where the rule says to which desk answers come.
	Desk int64 `json:"desk,omitempty" words:"where replies go" minimum:"0" doc:"To which desk answers come, if not by the rule"`
	// Steps are nil while the organisation's default for the urgency applies.
	Steps     precedence.Steps `json:"steps,omitempty" words:"the steps"`
	FirstOnly bool             `json:"firstOnly" words:"the steps" doc:"Use only the first usable address of each channel"`
	MoveOn    MoveOn           `json:"moveOn,omitzero" words:"the steps"`
	// Unwished passes over what recipients wish for, so that the steps alone decide.
	Unwished bool       `json:"unwished,omitempty" words:"the steps" doc:"Do not try the channel first that a recipient asked for; only routine messages do"`
	Spare    bool       `json:"spare,omitempty" words:"who is spared" doc:"Leave out those whom a routine message takes over the organisation's weekly limit"`
	SendAt   *time.Time `json:"sendAt,omitempty" words:"the time" doc:"When it may leave; absent means now"`
	// Times are when single channels may leave, where that is not SendAt.
	Times map[roster.Channel]time.Time `json:"times,omitempty" words:"the time"`
	// Until is nil for what may leave however late.
	Until  *time.Time `json:"until,omitempty" words:"the time" doc:"What has not left by then does not leave any more"`
	Spread int        `json:"spread,omitempty" words:"the time" minimum:"0" maximum:"1440" doc:"Over how many minutes it is spread evenly"`
	Copies Copies     `json:"copies,omitzero" words:"the copies"`
	// Follows is nil for a message that stands by itself.
	Follows *Follows `json:"follows,omitempty" words:"what it follows"`
	Reason  string   `json:"reason,omitempty" words:"the reason" maxLength:"500" doc:"Why it is an emergency, for the record"`
	// Practice keeps an emergency among the organisation's testers.
	Practice bool `json:"practice,omitempty" words:"the exercise" doc:"An exercise: it goes to the organisation's testers only, marked as one"`
}

// Draft is a message as its sender wrote it.
type Draft struct {
	Content
	Routing
}

// Empty is a draft that says nothing and is addressed to nobody.
func Empty() Draft {
	return Draft{Routing: Routing{
		Urgency: roster.Routine, Audience: audience.Audience{Parts: []audience.Part{}, Receivers: audience.Guardians},
	}}
}

// Over reports whether nothing of the message may leave any more.
func (d Routing) Over(now time.Time) bool { return d.Until != nil && !now.Before(*d.Until) }

// LongestSpread is the most minutes over which a message is spread.
const LongestSpread = 24 * 60

// Leaves is when a channel may leave, not before an instant.
func (d Routing) Leaves(c roster.Channel, soonest time.Time) time.Time {
	at := soonest
	if d.SendAt != nil {
		at = *d.SendAt
	}
	if own, ok := d.Times[c]; ok {
		at = own
	}
	if at.Before(soonest) {
		return soonest
	}
	return at
}

// MoveOn says when a recipient is tried on the next step; the zero value never.
type MoveOn struct {
	Failed  bool `json:"failed,omitempty" doc:"When everything on a step failed for good"`
	Minutes int  `json:"minutes,omitempty" minimum:"0" maximum:"1440" doc:"When nothing was confirmed within so many minutes; 0 is however long"`
	// Answered asks for more than arriving.
	Answered bool `json:"answered,omitempty" doc:"Only an answer confirms, such as the key of a call; otherwise arriving does"`
}

// Confirms reports whether a state confirms that somebody was told.
func (m MoveOn) Confirms(s delivery.State) bool {
	if m.Answered {
		return s == delivery.Answered
	}
	return s.Reached()
}

// Due reports whether a recipient moves on at an instant, given the states of
// the deliveries of their step and when the last of them was free to leave.
func (m MoveOn) Due(states []delivery.State, last, now time.Time) bool {
	if slices.ContainsFunc(states, m.Confirms) {
		return false
	}
	ended := func(s delivery.State) bool { return s == delivery.Failed || s == delivery.Expired }
	if m.Failed && !slices.ContainsFunc(states, func(s delivery.State) bool { return !ended(s) }) {
		return true
	}
	passed := now.Sub(last) >= time.Duration(m.Minutes)*time.Minute
	return m.Minutes > 0 && passed && !slices.Contains(states, delivery.Stopped)
}

// Voice is what a call says and takes.
type Voice struct {
	Own       bool             `json:"own,omitempty" doc:"The call no longer reads the text aloud, but what stands here"`
	Text      string           `json:"text,omitempty" doc:"To read aloud when own is set and there is no recording"`
	Recording *attachment.File `json:"recording,omitempty" doc:"To play instead of reading aloud"`
	Seconds   int              `json:"seconds,omitempty" minimum:"0" maximum:"600" doc:"The length of the recording"`
	// Others are recordings for readers of other languages.
	Others []Recording `json:"others,omitempty" maxItems:"20" doc:"Recordings for readers of a language, one for each"`
	// Keys that whoever picks up can press; "" is none.
	RepeatKey  string `json:"repeatKey,omitempty" enum:"0,1,2,3,4,5,6,7,8,9,*,#," doc:"Hears it again"`
	ConfirmKey string `json:"confirmKey,omitempty" enum:"0,1,2,3,4,5,6,7,8,9,*,#," doc:"Says that it was understood"`
}

// Recording is what a call plays to readers of a language.
type Recording struct {
	attachment.File
	Seconds int `json:"seconds" minimum:"1" maximum:"600"`
}

// Push is what a device shows.
type Push struct {
	Own   bool   `json:"own,omitempty" doc:"It no longer shows the subject and the text, but what stands here"`
	Title string `json:"title,omitempty" doc:"Shown when own is set"`
	Body  string `json:"body,omitempty" doc:"Shown when own is set"`
	Link  string `json:"link,omitempty" maxLength:"1000" doc:"The page that opens when it is touched"`
	Badge bool   `json:"badge,omitempty" doc:"The icon is marked until it is opened"`
	// Sound is "" while the urgency decides: routine messages are quiet.
	Sound PushSound `json:"sound,omitempty" enum:"quiet,interrupts," doc:"Whether it makes itself heard; routine messages do not unless it says so"`
}

// PushSound is whether a push makes itself heard.
type PushSound string

// Interrupts sounds, and stays until it is touched; Quiet waits in the list.
const (
	Interrupts PushSound = "interrupts"
	Quiet      PushSound = "quiet"
)

// PushIsQuiet reports whether devices show it without a sound.
func (d Draft) PushIsQuiet() bool { return d.Push.Quiet(d.Urgency) }

// Quiet reports whether a push of an urgency makes no sound.
func (p Push) Quiet(u roster.Urgency) bool {
	if p.Sound == "" {
		return UsuallyQuiet(u)
	}
	return p.Sound == Quiet
}

// UsuallyQuiet reports whether a push of an urgency is quiet unless it says otherwise.
func UsuallyQuiet(u roster.Urgency) bool { return u == roster.Routine }

// Soonest is when the first channel may leave, not before an instant.
func (d Routing) Soonest(soonest time.Time) time.Time {
	first := d.Leaves(roster.Channels[0], soonest)
	for _, c := range roster.Channels[1:] {
		if at := d.Leaves(c, soonest); at.Before(first) {
			first = at
		}
	}
	return first
}

// Cleaned is the content with every text in the form in which it is sent: lines
// end with a line feed, and characters that nobody can see are gone. A control
// character would send a whole text in the long alphabet.
func (d Content) Cleaned() Content {
	for _, text := range []*string{&d.Subject, &d.Push.Title} {
		*text = strings.Join(strings.Fields(entry.CleanText(*text)), " ")
	}
	for _, text := range []*string{&d.Text, &d.Voice.Text, &d.Push.Body, &d.Push.Link} {
		*text = entry.CleanText(*text)
	}
	d.Email = d.Email.Map(entry.CleanText)
	d.Question = d.Question.Map(func(words string) string {
		return strings.Join(strings.Fields(entry.CleanText(words)), " ")
	})
	return d
}

// Validate refuses what no message can mean. An unfinished draft is valid.
func (d Draft) Validate() error { return errors.Join(d.Routing.Validate(), d.Content.Validate()) }

// Validate refuses what no message can go out as.
func (r Routing) Validate() error {
	if !r.Urgency.Valid() {
		return fmt.Errorf("urgency: %q is none of routine, timely, emergency", r.Urgency)
	}
	if err := r.Audience.Validate(); err != nil {
		return fmt.Errorf("audience: %w", err)
	}
	if err := r.Steps.Validate(); err != nil {
		return fmt.Errorf("steps: %w", err)
	}
	if r.MoveOn.Minutes < 0 || r.MoveOn.Minutes > LongestSpread {
		return fmt.Errorf("moveOn: %d minutes, and it can be a day at most", r.MoveOn.Minutes)
	}
	if r.Spread < 0 || r.Spread > LongestSpread {
		return fmt.Errorf("spread: %d minutes, and it can be spread over a day at most", r.Spread)
	}
	if err := r.Copies.validate(); err != nil {
		return fmt.Errorf("copies: %w", err)
	}
	if err := r.Follows.validate(); err != nil {
		return fmt.Errorf("follows: %w", err)
	}
	for c := range r.Times {
		if !c.Valid() {
			return fmt.Errorf("times: %q is not a channel", c)
		}
	}
	return nil
}

// Validate refuses what no message can say. Unfinished content is valid.
func (d Content) Validate() error {
	if err := d.Email.Validate(); err != nil {
		return fmt.Errorf("email: %w", err)
	}
	if err := d.validateFiles(); err != nil {
		return err
	}
	if err := d.validateQuestion(); err != nil {
		return err
	}
	if s := d.Push.Sound; s != "" && s != Quiet && s != Interrupts {
		return fmt.Errorf("push: %q is neither quiet nor interrupts", s)
	}
	if v := d.Voice; v.RepeatKey != "" && v.RepeatKey == v.ConfirmKey {
		return fmt.Errorf("voice: key %s cannot both repeat and confirm", v.RepeatKey)
	}
	for _, c := range []struct {
		name, value string
		longest     int
	}{
		{"subject", d.Subject, LongestSubject}, {"email", d.Email.Plain(), LongestBody}, {"text", d.Text, LongestBody},
		{"voice", d.Voice.Text, LongestBody},
		{"push title", d.Push.Title, LongestSubject}, {"push", d.Push.Body, LongestBody},
	} {
		if n := utf8.RuneCountInString(c.value); n > c.longest {
			return fmt.Errorf("%s: %d characters, and no more than %d can be sent", c.name, n, c.longest)
		}
	}
	return nil
}

// validateFiles refuses an image or a recording that cannot be shown or played.
func (d Content) validateFiles() error {
	if len(d.Files) > attachment.MostFiles {
		return fmt.Errorf("files: %d, and no more than %d can go with a message", len(d.Files), attachment.MostFiles)
	}
	for _, hash := range d.Email.Images() {
		shows := func(f attachment.File) bool { return f.Hash == hash && attachment.Picture(f.Type) }
		if !slices.ContainsFunc(d.Files, shows) {
			return errors.New("email: it shows a picture that is not among the files")
		}
	}
	for _, f := range d.Files {
		if !ofALanguage(f.Language) && f.Language != "" {
			return fmt.Errorf("files: %q, whose readers %s is for, is no language", f.Language, f.Name)
		}
	}
	return d.validateRecordings()
}

func (d Content) validateRecordings() error {
	list := []attachment.File{}
	if d.Voice.Recording != nil {
		list = append(list, *d.Voice.Recording)
	}
	seen := map[string]bool{}
	for _, r := range d.Voice.Others {
		if !ofALanguage(r.Language) || seen[r.Language] {
			return fmt.Errorf("voice: %s is for readers of %q; each recording is for one language of its own", r.Name, r.Language)
		}
		if r.Seconds <= 0 {
			return fmt.Errorf("voice: it is not known how long %s is", r.Name)
		}
		seen[r.Language] = true
		list = append(list, r.File)
	}
	for _, f := range list {
		if !strings.HasPrefix(f.Type, "audio/") {
			return fmt.Errorf("voice: %s is no recording", f.Name)
		}
	}
	return nil
}

// ofALanguage reports whether a tag is one of BCP 47 as it is kept.
func ofALanguage(tag string) bool {
	kept, ok := phrase.Tag(tag)
	return ok && kept == tag
}

// Opens reports whether a device can open the link; "" needs no opening. A
// field in it is filled later.
func (p Push) Opens() bool {
	link, err := url.Parse(strings.NewReplacer("{{", "", "}}", "", " ", "").Replace(p.Link))
	return p.Link == "" || err == nil && (link.Scheme == "https" || link.Scheme == "http") && link.Host != ""
}

// Everything are the files of all channels.
func (d Content) Everything() []attachment.File {
	list := slices.Clone(d.Files)
	if d.Voice.Recording != nil {
		list = append(list, *d.Voice.Recording)
	}
	for _, r := range d.Voice.Others {
		list = append(list, r.File)
	}
	return list
}

// TextBody is the text as it applies: its own, or the email's body.
func (d Content) TextBody() string {
	if d.OwnText {
		return strings.TrimSpace(d.Text)
	}
	return strings.TrimSpace(d.Email.Plain())
}

// VoiceBody is what a call reads aloud: its own words, or the text.
func (d Content) VoiceBody() string {
	if d.Voice.Own {
		return strings.TrimSpace(d.Voice.Text)
	}
	return d.TextBody()
}

// PushContent is the title and the body that devices show: their own, or the
// subject and the text. Without a subject the title is "".
func (d Content) PushContent() (title, body string) {
	if d.Push.Own {
		return strings.TrimSpace(d.Push.Title), strings.TrimSpace(d.Push.Body)
	}
	return strings.TrimSpace(d.Subject), d.TextBody()
}

// Has reports whether there is content for a channel.
func (d Content) Has(c roster.Channel) bool {
	switch c {
	case roster.Email:
		return !d.Email.Empty()
	case roster.Voice:
		return d.Voice.Recording != nil || d.VoiceBody() != ""
	case roster.Push:
		title, body := d.PushContent()
		return body != "" || d.Push.Own && title != ""
	}
	return d.TextBody() != ""
}

// Wordless reports whether no channel has anything to say yet.
func (d Content) Wordless() bool { return !slices.ContainsFunc(roster.Channels, d.Has) }

// Title names the message in lists: its subject, or else how it begins.
func (d Content) Title() string {
	if s := strings.Join(strings.Fields(entry.CleanText(d.Subject)), " "); s != "" {
		return s
	}
	for _, body := range []string{d.Email.Plain(), d.Text} {
		line, _, _ := strings.Cut(strings.TrimSpace(entry.CleanText(body)), "\n")
		if line == "" {
			continue
		}
		if r := []rune(line); len(r) > 60 {
			return strings.TrimSpace(string(r[:60])) + "…"
		}
		return line
	}
	return "Untitled"
}
