package roster

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"golang.org/x/text/language"
	"golang.org/x/text/language/display"
)

// Subject is what a condition looks at.
type Subject string

const (
	OnRole      Subject = "role"
	OnUnit      Subject = "unit"
	OnGroup     Subject = "group"
	OnLanguage  Subject = "language"
	OnStatus    Subject = "status"
	OnChannel   Subject = "channel"
	OnConsent   Subject = "consent"
	OnAttribute Subject = "attribute"
	OnGap       Subject = "gap"
	OnReached   Subject = "reached"
)

// Subjects lists every subject.
var Subjects = []Subject{
	OnRole, OnUnit, OnGroup, OnLanguage, OnStatus, OnChannel, OnConsent, OnAttribute, OnGap, OnReached,
}

// Test is how a condition compares.
type Test string

const (
	Is       Test = "is"
	IsNot    Test = "is-not"
	Contains Test = "contains"
	Less     Test = "less"
	More     Test = "more"
	Before   Test = "before"
	After    Test = "after"
	Empty    Test = "empty"
	Filled   Test = "filled"
)

// AllTests lists every test.
var AllTests = []Test{Is, IsNot, Contains, Less, More, Before, After, Empty, Filled}

// Condition is one filter on people.
type Condition struct {
	On    Subject `json:"on"`
	Test  Test    `json:"test"`
	Value string  `json:"value,omitempty" maxLength:"200" doc:"A role, language, status, channel, urgency, date, or the value of an attribute"`
	ID    int64   `json:"id,omitempty" doc:"Of the unit, group or attribute"`
}

// Rule holds for whoever fulfils all of its conditions.
type Rule []Condition

// testsOf are the tests that make sense for a subject.
var testsOf = map[Subject][]Test{
	OnRole: {Is, IsNot}, OnUnit: {Is, IsNot}, OnGroup: {Is, IsNot}, OnLanguage: {Is, IsNot, Empty}, OnStatus: {Is, IsNot},
	OnChannel: {Is, IsNot}, OnConsent: {Is, IsNot}, OnGap: {Is, IsNot}, OnReached: {Before},
}

// testsOfKind are the tests that make sense for a kind of attribute.
var testsOfKind = map[AttributeKind][]Test{
	TextAttribute: {Is, IsNot, Contains, Empty, Filled}, NumberAttribute: {Is, Less, More, Empty, Filled},
	DateAttribute: {Is, Before, After, Empty, Filled}, ChoiceAttribute: {Is, IsNot, Empty, Filled},
	YesNoAttribute: {Is, Empty},
}

// Tests are the tests that make sense for a subject other than an attribute.
func (s Subject) Tests() []Test { return testsOf[s] }

// Tests are the tests that make sense for an attribute.
func (a Attribute) Tests() []Test { return testsOfKind[a.Kind] }

// Check refuses a rule that means nothing, with the reason.
func (r *Roster) Check(rule Rule) error {
	for i, c := range rule {
		if err := r.checkCondition(c); err != nil {
			return fmt.Errorf("condition %d: %w", i+1, err)
		}
	}
	return nil
}

func (r *Roster) checkCondition(c Condition) error {
	tests := c.On.Tests()
	if c.On == OnAttribute {
		a, ok := r.Attribute(AttributeID(c.ID))
		if !ok {
			return fmt.Errorf("the attribute it looks at no longer exists")
		}
		tests = a.Tests()
		if c.Test != Empty && c.Test != Filled {
			if _, err := a.Read(c.Value); err != nil {
				return err
			}
		}
	}
	if !slices.Contains(tests, c.Test) {
		return fmt.Errorf("%q cannot be asked of %q", c.Test, c.On)
	}
	if role := Role(c.Value); c.On == OnRole && !slices.Contains(Roles, role) && !slices.Contains(r.OwnRoles, role) {
		return fmt.Errorf("the role “%s”, which it looks at, no longer exists", role)
	}
	if c.On == OnGroup {
		if _, ok := r.Group(GroupID(c.ID)); !ok {
			return fmt.Errorf("the group it looks at no longer exists")
		}
	}
	if c.On == OnUnit && c.ID != 0 && r.UnitPath(UnitID(c.ID)) == "" {
		return fmt.Errorf("the unit it looks at no longer exists")
	}
	if c.On == OnGap && !slices.Contains(Gaps, Gap(c.Value)) {
		return fmt.Errorf("%q is no gap", c.Value)
	}
	if c.On == OnReached && (c.Value == "" || !Date(c.Value).Valid()) {
		return fmt.Errorf("%q is no date", c.Value)
	}
	return nil
}

// RuleWords says each condition of a rule; never nil.
func (r *Roster) RuleWords(rule Rule) []string {
	words := make([]string, len(rule))
	for i, c := range rule {
		words[i] = r.Words(c)
	}
	return words
}

// Words says a condition the way an administrator would.
func (r *Roster) Words(c Condition) string {
	not := map[Test]string{IsNot: "not "}[c.Test]
	switch c.On {
	case OnRole:
		return not + "in the role " + c.Value
	case OnUnit:
		if c.ID == 0 {
			return not + "in no unit"
		}
		return not + "in the unit " + orGone(r.UnitPath(UnitID(c.ID)))
	case OnGroup:
		name := ""
		if g, ok := r.Group(GroupID(c.ID)); ok {
			name = g.Name
		}
		return not + "in the group " + orGone(name)
	case OnLanguage:
		if c.Test == Empty {
			return "language not known"
		}
		return map[Test]string{Is: "reads ", IsNot: "does not read "}[c.Test] + LanguageName(c.Value)
	case OnStatus:
		return map[Test]string{Is: "is ", IsNot: "is not "}[c.Test] + c.Value
	case OnChannel:
		return map[Test]string{Is: "can be reached by ", IsNot: "cannot be reached by "}[c.Test] + c.Value
	case OnConsent:
		return map[Test]string{Is: "declines ", IsNot: "does not decline "}[c.Test] + c.Value + " messages"
	case OnGap:
		return not + Gap(c.Value).Words()
	case OnReached:
		return "not reached since " + c.Value
	}
	return r.attributeWords(c)
}

func (r *Roster) attributeWords(c Condition) string {
	a, ok := r.Attribute(AttributeID(c.ID))
	if !ok {
		return "an attribute that no longer exists"
	}
	words := map[Test]string{
		Is: "is", IsNot: "is not", Contains: "contains", Less: "is less than", More: "is more than",
		Before: "is before", After: "is after", Empty: "is empty", Filled: "is filled in",
	}
	return strings.TrimSpace(a.Name + " " + words[c.Test] + " " + c.Value)
}

func orGone(name string) string {
	if name == "" {
		return "something that no longer exists"
	}
	return name
}

// LanguageName is a language's name in English, or "" for none.
func LanguageName(tag string) string {
	if tag == "" {
		return ""
	}
	return display.English.Tags().Name(language.Make(tag))
}

// Select returns the positions of those who fulfil a rule, and how many the
// conditions leave one after another. A condition that names something that
// no longer exists is fulfilled by nobody.
func (r *Roster) Select(rule Rule) (people []int, leaves []int) {
	people = make([]int, r.Len())
	for i := range people {
		people[i] = i
	}
	leaves = make([]int, len(rule))
	for n, c := range rule {
		holds := r.compile(c)
		people = slices.DeleteFunc(people, func(i int) bool { return !holds(i) })
		leaves[n] = len(people)
	}
	return people, leaves
}

func nobody(int) bool { return false }

// compile makes the test of a condition; what is the same for everybody is
// worked out once.
func (r *Roster) compile(c Condition) func(i int) bool {
	if r.checkCondition(c) != nil {
		return nobody
	}
	want := c.Test != IsNot
	switch c.On {
	case OnRole:
		return func(i int) bool { return r.At(i).Has(Role(c.Value)) == want }
	case OnUnit:
		within := Below(r.Units, []UnitID{UnitID(c.ID)})
		return func(i int) bool { return within[r.At(i).Unit] == want }
	case OnGroup:
		in := make([]bool, r.Len())
		for _, i := range r.In(GroupID(c.ID)) {
			in[i] = true
		}
		return func(i int) bool { return in[i] == want }
	case OnLanguage:
		return r.compileLanguage(c, want)
	case OnStatus:
		return func(i int) bool { return (r.At(i).Status == Status(c.Value)) == want }
	case OnChannel:
		return func(i int) bool { return r.At(i).Reaches(Channel(c.Value)) == want }
	case OnConsent:
		return func(i int) bool { return r.At(i).declinesEverywhere(Urgency(c.Value)) == want }
	case OnGap:
		return func(i int) bool { return r.Has(Gap(c.Value), i) == want }
	case OnReached:
		return func(i int) bool { return r.At(i).ReachedOn < Date(c.Value) }
	}
	return r.compileAttribute(c)
}

func (r *Roster) compileLanguage(c Condition, want bool) func(int) bool {
	if c.Test == Empty {
		return func(i int) bool { return r.At(i).Language == "" }
	}
	return func(i int) bool {
		spoken := r.At(i).Language
		return (spoken == c.Value || strings.HasPrefix(spoken, c.Value+"-")) == want
	}
}

// declinesEverywhere reports whether somebody who has addresses that work
// declines messages of an urgency on all of them, or the carriers recorded stops.
func (p *Person) declinesEverywhere(u Urgency) bool {
	any := false
	for _, a := range p.Addresses {
		if a.Health == Dead || a.Unconnected() {
			continue
		}
		if !a.Declines(u) && !a.CarrierStop {
			return false
		}
		any = true
	}
	return any
}

func (r *Roster) compileAttribute(c Condition) func(int) bool {
	id := AttributeID(c.ID)
	a, _ := r.Attribute(id)
	value := func(i int) string { return r.At(i).Value(id) }
	wanted, _ := a.Read(c.Value)
	switch c.Test {
	case Empty:
		return func(i int) bool { return value(i) == "" }
	case Filled:
		return func(i int) bool { return value(i) != "" }
	case Is:
		return func(i int) bool { return strings.EqualFold(value(i), wanted) }
	case IsNot:
		return func(i int) bool { return !strings.EqualFold(value(i), wanted) }
	case Contains:
		wanted = strings.ToLower(wanted)
		return func(i int) bool { return strings.Contains(strings.ToLower(value(i)), wanted) }
	case Before:
		return func(i int) bool { return value(i) != "" && value(i) < wanted }
	case After:
		return func(i int) bool { return value(i) > wanted }
	}
	limit, _ := strconv.ParseFloat(wanted, 64)
	return func(i int) bool {
		n, err := strconv.ParseFloat(value(i), 64)
		return err == nil && (c.Test == Less && n < limit || c.Test == More && n > limit)
	}
}

// Read brings a typed value into the form that the attribute keeps; an empty
// one stays empty. The error says what was expected.
func (a Attribute) Read(typed string) (string, error) {
	typed = strings.TrimSpace(typed)
	if typed == "" {
		return "", nil
	}
	switch a.Kind {
	case NumberAttribute:
		n, err := strconv.ParseFloat(strings.ReplaceAll(typed, ",", "."), 64)
		if err != nil || n != n {
			return "", fmt.Errorf("%s: %q is no number", a.Name, typed)
		}
		return strconv.FormatFloat(n, 'f', -1, 64), nil
	case DateAttribute:
		if !Date(typed).Valid() {
			return "", fmt.Errorf("%s: %q is no date such as 2026-11-28", a.Name, typed)
		}
	case YesNoAttribute:
		switch strings.ToLower(typed) {
		case "yes", "y", "true", "1":
			return "yes", nil
		case "no", "n", "false", "0":
			return "no", nil
		}
		return "", fmt.Errorf("%s: %q is neither yes nor no", a.Name, typed)
	case ChoiceAttribute:
		i := slices.IndexFunc(a.Choices, func(c string) bool { return strings.EqualFold(c, typed) })
		if i < 0 {
			return "", fmt.Errorf("%s: %q is none of %s", a.Name, typed, strings.Join(a.Choices, ", "))
		}
		return a.Choices[i], nil
	}
	return typed, nil
}

// fillRules gives the groups by rule their members. A rule may look at groups,
// also such by rule; one that looks at itself in the end gets nobody by it.
func (r *Roster) fillRules() {
	done := map[GroupID]bool{}
	var fill func(id GroupID)
	fill = func(id GroupID) {
		g, ok := r.Group(id)
		if !ok || done[id] {
			return
		}
		done[id] = true
		for _, inner := range g.Inside {
			fill(inner)
		}
		if g.Kind != ByRule {
			return
		}
		g.Members = nil
		for _, c := range g.Rule {
			if c.On == OnGroup {
				fill(GroupID(c.ID))
			}
		}
		people, _ := r.Select(g.Rule)
		for _, i := range people {
			g.Members = append(g.Members, r.At(i).ID)
		}
	}
	for _, g := range r.Groups() {
		fill(g.ID)
	}
}

// Circles returns the path of names by which a rule for a group would look at
// the group itself, or nil.
func (r *Roster) Circles(id GroupID, rule Rule) []string {
	own, _ := r.Group(id)
	for _, c := range rule {
		if c.On != OnGroup {
			continue
		}
		if path := r.looksAt(GroupID(c.ID), id, nil); path != nil {
			return append([]string{own.Name}, path...)
		}
	}
	return nil
}

// looksAt returns the names from a group to a target, through nesting and rules.
func (r *Roster) looksAt(from, target GroupID, above []GroupID) []string {
	g, ok := r.Group(from)
	if !ok || slices.Contains(above, from) {
		return nil
	}
	if from == target {
		return []string{g.Name}
	}
	next := slices.Clone(g.Inside)
	for _, c := range g.Rule {
		if c.On == OnGroup {
			next = append(next, GroupID(c.ID))
		}
	}
	for _, id := range next {
		if path := r.looksAt(id, target, append(above, from)); path != nil {
			return append([]string{g.Name}, path...)
		}
	}
	return nil
}

// Languages returns some languages first and then, most read first, the others
// that people read, each once.
func (r *Roster) Languages(first []string) []string {
	counts := map[string]int{}
	for i := range r.People {
		if tag := r.People[i].Language; tag != "" {
			counts[tag]++
		}
	}
	list := []string{}
	for _, tag := range first {
		if tag != "" && !slices.Contains(list, tag) {
			list = append(list, tag)
		}
	}
	var others []string
	for tag := range counts {
		if !slices.Contains(list, tag) {
			others = append(others, tag)
		}
	}
	slices.SortFunc(others, func(a, b string) int { return cmp.Or(counts[b]-counts[a], strings.Compare(a, b)) })
	return append(list, others...)
}

// LooksAt reports whether a condition of the rule looks at a group.
func (rule Rule) LooksAt(id GroupID) bool {
	return slices.ContainsFunc(rule, func(c Condition) bool { return c.On == OnGroup && GroupID(c.ID) == id })
}

// OwnLanguageName is a language's name in itself, or "" for none.
func OwnLanguageName(tag string) string {
	if tag == "" {
		return ""
	}
	return display.Self.Name(language.Make(tag))
}
