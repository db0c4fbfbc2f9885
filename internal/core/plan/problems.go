package plan

import (
	"regexp"
	"slices"
	"strings"
	"time"

	"upperlantern/internal/core/attachment"
	"upperlantern/internal/core/audience"
	"upperlantern/internal/core/dates"
	"upperlantern/internal/core/message"
	"upperlantern/internal/core/push"
	"upperlantern/internal/core/roster"
)

// ProblemCode names a problem. What a problem speaks of stands behind its code.
type ProblemCode string

// Params are what a problem speaks of, by name: numbers are int, prices
// money.Amount, instants time.Time on the organisation's clocks, a weekday
// time.Weekday, and everything else is text.
type Params map[string]any

// What keeps a message from being sent.
const (
	NoAudience    ProblemCode = "no-audience"
	NobodyLeft    ProblemCode = "nobody-left"
	NothingToSay  ProblemCode = "no-content"
	UnknownField  ProblemCode = "unknown-field" // name, known
	AskedFor      ProblemCode = "asked-for"     // name
	NobodyReached ProblemCode = "nobody-reached"
	TooManyFiles  ProblemCode = "too-many-files"  // files, most
	TooLarge      ProblemCode = "files-too-large" // bytes, most
	NotYours      ProblemCode = "identity"        // as
	NoReason      ProblemCode = "no-reason"
	NotAllowed    ProblemCode = "not-allowed"
	NoTesters     ProblemCode = "no-testers"
	PushTooLarge  ProblemCode = "push-too-large" // bytes, people, most
	NoLink        ProblemCode = "push-link"      // link
	NeverLeaves   ProblemCode = "never-leaves"   // at
	HalfQuestion  ProblemCode = "half-question"
)

// What is only to be looked at again, the heaviest first.
const (
	MissingPart   ProblemCode = "missing-part"  // part
	NoFiles       ProblemCode = "no-files"      // said
	PastDate      ProblemCode = "past-date"     // said
	WrongWeekday  ProblemCode = "wrong-weekday" // said, weekday
	EmptyField    ProblemCode = "empty-field"   // people
	OverBudget    ProblemCode = "over-budget"   // spent, budget, currency
	Unreached     ProblemCode = "unreached"     // people
	NoSubject     ProblemCode = "no-subject"
	Clash         ProblemCode = "clash"         // title, people, at
	PastTime      ProblemCode = "past-time"     // at
	TwiceTime     ProblemCode = "twice-time"    // at
	SomeExpire    ProblemCode = "some-expire"   // deliveries, at
	AtNight       ProblemCode = "at-night"      // at
	PublicHoliday ProblemCode = "holiday"       // name
	CopyDoubtful  ProblemCode = "copy-doubtful" // language, lines
	FilesUnseen   ProblemCode = "files-unseen"  // people, files
	OverLimit     ProblemCode = "over-limit"    // people, limit
	BigAudience   ProblemCode = "big-audience"  // people
)

// ProblemCodes lists every problem.
var ProblemCodes = []ProblemCode{
	NoAudience, NobodyLeft, NothingToSay, UnknownField, AskedFor, NobodyReached, TooManyFiles, TooLarge,
	NotYours, NoReason, NotAllowed, NoTesters, PushTooLarge, NoLink, NeverLeaves, HalfQuestion, MissingPart, NoFiles,
	PastDate,
	WrongWeekday, EmptyField, OverBudget, Unreached, NoSubject, Clash, PastTime, TwiceTime, SomeExpire, AtNight,
	PublicHoliday, CopyDoubtful, FilesUnseen, OverLimit, BigAudience,
}

// Place is where in Write a problem is mended.
type Place string

const (
	InWho       Place = "who"
	InEmail     Place = "email"
	InQuestion  Place = "question"
	InCopies    Place = "copies"
	InSubject   Place = "subject"
	InFiles     Place = "files"
	InPush      Place = "push"
	InSender    Place = "sender"
	InSteps     Place = "steps"
	InTime      Place = "time"
	InEmergency Place = "emergency"
	InLeftOut   Place = "left-out"
)

// Problem is something to mend. Blocks means that nothing can be sent until then.
type Problem struct {
	Code   ProblemCode
	Mend   Place
	Blocks bool
	Params Params
}

// problems lists what keeps a plan from being sent, then what is to be looked
// at again, the heaviest first.
func (p *Plan) problems(r *roster.Roster, s Summary) []Problem {
	list := p.blocks(r)
	if len(list) == 0 && len(p.Recipients) == 0 {
		list = append(list, Problem{Code: NobodyReached, Mend: InLeftOut, Blocks: true})
	}
	return append(list, p.warnings(s)...)
}

func (p *Plan) blocks(r *roster.Roster) []Problem {
	var list []Problem
	block := func(code ProblemCode, mend Place, params Params) {
		list = append(list, Problem{Code: code, Mend: mend, Blocks: true, Params: params})
	}
	draft, settings := p.Draft, p.Settings
	including := slices.ContainsFunc(draft.Audience.Parts, notLeavingOut)
	switch {
	case p.exercise() && !including:
		block(NoTesters, InEmergency, nil)
	case !including:
		block(NoAudience, InWho, nil)
	case len(p.Audience.Recipients)+len(p.Audience.LeftOut) == 0:
		block(NobodyLeft, InWho, nil)
	}
	if draft.Wordless() {
		block(NothingToSay, InEmail, nil)
	}
	if draft.Question.Unfinished() {
		block(HalfQuestion, InQuestion, nil)
	}
	if value := p.borrowed(r); value != "" {
		block(NotYours, InSender, Params{"as": value})
	}
	if draft.Urgency == roster.Emergency && settings.NoEmergency {
		block(NotAllowed, InEmergency, nil)
	}
	if draft.Urgency == roster.Emergency && strings.TrimSpace(draft.Reason) == "" {
		block(NoReason, InEmergency, nil)
	}
	if none, is := p.expiry(); is && none.Blocks {
		list = append(list, none)
	}
	if n := len(draft.Files); n > attachment.MostFiles {
		block(TooManyFiles, InFiles, Params{"files": n, "most": attachment.MostFiles})
	}
	if sum, most := p.largestFiles(), settings.Sending.LargestMail(); sum > most {
		block(TooLarge, InFiles, Params{"bytes": int(sum), "most": int(most)})
	}
	for _, name := range p.readings[0].unknown(p.filler.known) {
		if asked, is := strings.CutPrefix(name, message.AskPrefix); is {
			block(AskedFor, InEmail, Params{"name": strings.TrimSpace(asked)})
			continue
		}
		block(UnknownField, InEmail, Params{"name": name, "known": fieldNames(r)})
	}
	if !draft.Push.Opens() {
		block(NoLink, InPush, Params{"link": draft.Push.Link})
	}
	if n, people := p.oversized(); people > 0 {
		block(PushTooLarge, InPush, Params{"bytes": n, "people": people, "most": push.Most})
	}
	return list
}

// oversized is the size of the largest push that no device takes, and how many
// people it is for.
func (p *Plan) oversized() (bytes, people int) {
	for _, d := range p.Deliveries {
		if d.Bytes > push.Most {
			bytes, people = max(bytes, d.Bytes), people+len(d.Recipients)
		}
	}
	return bytes, people
}

func (p *Plan) warnings(s Summary) []Problem {
	var list []Problem
	warn := func(code ProblemCode, mend Place, params Params) {
		list = append(list, Problem{Code: code, Mend: mend, Params: params})
	}
	draft, settings := p.Draft, p.Settings
	for i, part := range p.Audience.Parts {
		if part.Missing {
			warn(MissingPart, InWho, Params{"part": i + 1})
		}
	}
	written := strings.Join([]string{
		draft.Subject, draft.Email.Plain(), draft.TextBody(), draft.VoiceBody(), draft.Push.Title, draft.Push.Body,
	}, "\n")
	if said := attached.FindString(written); said != "" && len(draft.Files) == 0 {
		warn(NoFiles, InFiles, Params{"said": strings.ToLower(said)})
	}
	for _, odd := range dates.Odd(written, p.First().In(settings.zone(""))) {
		if odd.Past {
			warn(PastDate, InEmail, Params{"said": odd.Text})
			continue
		}
		warn(WrongWeekday, InEmail, Params{"said": odd.Text, "weekday": odd.Day.Weekday()})
	}
	out := map[Reason]int{}
	for _, l := range s.LeftOut {
		out[l.Reason] = l.People
	}
	if n := out[FieldEmpty]; n > 0 {
		warn(EmptyField, InLeftOut, Params{"people": n})
	}
	if after := settings.Spent + s.Cost; settings.Budget > 0 && after > settings.Budget && s.Cost > 0 {
		warn(OverBudget, InSteps, Params{"spent": after, "budget": settings.Budget, "currency": settings.Currency})
	}
	if n := out[NoAddress] + out[AllDead] + out[NoGuardian] + out[GuardiansGetNothing]; n > 0 {
		warn(Unreached, InLeftOut, Params{"people": n})
	}
	if draft.Has(roster.Email) && strings.TrimSpace(draft.Subject) == "" && p.peopleBy(roster.Email) > 0 {
		warn(NoSubject, InSubject, nil)
	}
	list = append(append(list, p.clashes()...), p.timeNotes()...)
	if name := p.holiday(); name != "" {
		warn(PublicHoliday, InTime, Params{"name": name})
	}
	for _, c := range p.Copies {
		if c.Used && c.Doubtful > 0 {
			warn(CopyDoubtful, InCopies, Params{"language": roster.LanguageName(c.Language), "lines": c.Doubtful})
		}
	}
	if n := p.WithoutEmail(); n > 0 && len(draft.Files) > 0 {
		warn(FilesUnseen, InFiles, Params{"people": n, "files": len(draft.Files)})
	}
	if s.Load.Over > 0 {
		warn(OverLimit, InWho, Params{"people": s.Load.Over, "limit": settings.Sending.LoadLimit})
	}
	if s.Recipients >= settings.Sending.Big() {
		warn(BigAudience, InWho, Params{"people": s.Recipients})
	}
	return list
}

// attached are words that promise a file. A text in another language is not
// looked at for them.
var attached = regexp.MustCompile(`(?i)\b(?:attached|attachment|enclosed|see the (?:map|form|file|picture|leaflet) below)\b`)

// WithoutEmail is how many recipients get no email.
func (p *Plan) WithoutEmail() int { return len(p.Recipients) - p.peopleBy(roster.Email) }

// Near is another message that was sent, or is to leave, at about the same time.
type Near struct {
	Author int64  // the account that wrote it
	Title  string // "" when the sender may not see it
	At     time.Time
	To     map[roster.PersonID]bool
}

// NearTime is how near to each other two messages are when they clash.
const NearTime = time.Hour

// clashes are the other messages that reach the same people at about the same time.
func (p *Plan) clashes() []Problem {
	var list []Problem
	for _, near := range p.Settings.Near {
		if len(p.Recipients) == 0 || p.First().Sub(near.At).Abs() > NearTime {
			continue
		}
		both := 0
		for _, rec := range p.Recipients {
			if near.To[p.filler.roster.At(rec.Person).ID] {
				both++
			}
		}
		if both > 0 {
			list = append(list, Problem{Code: Clash, Mend: InTime, Params: Params{
				"title": near.Title, "people": both, "at": near.At.In(p.Settings.zone("")),
			}})
		}
	}
	return list
}

func (p *Plan) holiday() string {
	if p.Settings.Holiday == nil || p.Draft.Urgency == roster.Emergency {
		return ""
	}
	return p.Settings.Holiday(p.First().In(p.Settings.zone("")))
}

func notLeavingOut(p audience.Part) bool { return !p.LeaveOut }

func fieldNames(r *roster.Roster) string {
	fields := Fields(r)
	names := make([]string, len(fields))
	for i, n := range fields {
		names[i] = string(n)
	}
	return strings.Join(names, ", ")
}
