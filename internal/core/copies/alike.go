package copies

import (
	"slices"
	"strings"
	"unicode/utf8"

	"github.com/agnivade/levenshtein"

	"upperlantern/internal/core/lines"
)

// Alike is from which likeness on a remembered line is offered, in hundredths.
const Alike = 75

// Likeness is how alike two lines are, in hundredths: 100 is the same.
func Likeness(a, b string) int {
	a, b = strings.ToLower(a), strings.ToLower(b)
	longest := max(utf8.RuneCountInString(a), utf8.RuneCountInString(b))
	if longest == 0 {
		return 100
	}
	return 100 - (100*levenshtein.ComputeDistance(a, b)+longest-1)/longest
}

// Like is one of several texts, by its position, that is alike.
type Like struct {
	At       int
	Likeness int // in hundredths
}

// Likest are those of some texts that are alike enough to be offered, the likest first.
func Likest(text string, among []string) []Like {
	own := runesOf(text)
	known := map[string]int{}
	var list []Like
	for i, other := range among {
		like, seen := known[other]
		if !seen {
			if couldBeAlike(own, runesOf(other)) {
				like = Likeness(text, other)
			}
			known[other] = like
		}
		if like >= Alike {
			list = append(list, Like{i, like})
		}
	}
	slices.SortStableFunc(list, func(a, b Like) int { return b.Likeness - a.Likeness })
	return list
}

// runes are how often each character occurs, those beyond the table together by their
// last bits, and how many there are.
type runes struct {
	count [256]int16
	all   int
}

func runesOf(text string) *runes {
	var r runes
	for _, c := range strings.ToLower(text) {
		r.count[c%256]++
		r.all++
	}
	return &r
}

// couldBeAlike reports whether two texts can be alike, by their characters alone: a
// text is not made into another with fewer changes than there are characters in it that
// the other lacks. It is much faster than counting the changes.
func couldBeAlike(a, b *runes) bool {
	more, fewer := 0, 0
	for i := range a.count {
		if d := int(a.count[i]) - int(b.count[i]); d > 0 {
			more += d
		} else {
			fewer -= d
		}
	}
	longest := max(a.all, b.all)
	return 100-(100*max(more, fewer)+longest-1)/max(longest, 1) >= Alike
}

// Piece is a part of a text beside another one: in both, or in one of them.
type Piece struct {
	Text string `json:"text"`
	Only string `json:"only" enum:"before,now," doc:"In which of the two it stands; empty for both"`
}

const (
	onlyBefore = "before"
	onlyNow    = "now"
)

// Difference shows what differs between a text before and now, in words.
func Difference(before, now string) []Piece {
	a, b := words(before), words(now)
	common := longestCommon(a, b)
	var list []Piece
	add := func(text, only string) {
		if last := len(list) - 1; last >= 0 && list[last].Only == only {
			list[last].Text += text
			return
		}
		list = append(list, Piece{text, only})
	}
	i, j := 0, 0
	for i < len(a) || j < len(b) {
		switch {
		case i < len(a) && j < len(b) && a[i] == b[j]:
			add(a[i], "")
			i, j = i+1, j+1
		case j >= len(b) || i < len(a) && common[i+1][j] >= common[i][j+1]:
			add(a[i], onlyBefore)
			i++
		default:
			add(b[j], onlyNow)
			j++
		}
	}
	return list
}

// longestCommon is how many words from each pair of places on are common to both.
func longestCommon(a, b []string) [][]int {
	table := make([][]int, len(a)+1)
	for i := range table {
		table[i] = make([]int, len(b)+1)
	}
	for i := len(a) - 1; i >= 0; i-- {
		for j := len(b) - 1; j >= 0; j-- {
			table[i][j] = max(table[i+1][j], table[i][j+1])
			if a[i] == b[j] {
				table[i][j] = table[i+1][j+1] + 1
			}
		}
	}
	return table
}

// mostWords bounds the work of showing a difference.
const mostWords = 600

// words cuts a text into words, each with the space behind it.
func words(text string) []string {
	list := strings.SplitAfter(text, " ")
	if len(list) > mostWords {
		rest := strings.Join(list[mostWords:], "")
		list = append(list[:mostWords:mostWords], rest)
	}
	return list
}

// leastStale is how like its new line a stale one is at least, in hundredths.
const leastStale = 40

// Stale finds, for each line of a message that a copy has no target for, the target of
// the line that it was before: the most like it that is no longer in the message. Each
// is given once.
func (c Copy) Stale(message []lines.Standing) map[string]Target {
	now := map[string]bool{}
	for _, l := range message {
		now[l.Key()] = true
	}
	var gone []Target
	for key, t := range c.Targets {
		if !now[key] && t.Text != "" {
			gone = append(gone, t)
		}
	}
	slices.SortFunc(gone, func(a, b Target) int { return strings.Compare(a.Original.Text, b.Original.Text) })
	type pair struct {
		key  string
		gone int
		like int
	}
	var pairs []pair
	for _, l := range message {
		if _, filled := c.Say("", l.Line); filled {
			continue
		}
		for i, t := range gone {
			if like := Likeness(t.Original.Text, l.Text); like >= leastStale {
				pairs = append(pairs, pair{l.Key(), i, like})
			}
		}
	}
	slices.SortStableFunc(pairs, func(a, b pair) int { return b.like - a.like })
	stale, taken := map[string]Target{}, map[int]bool{}
	for _, p := range pairs {
		if _, has := stale[p.key]; !has && !taken[p.gone] {
			stale[p.key], taken[p.gone] = gone[p.gone], true
		}
	}
	return stale
}
