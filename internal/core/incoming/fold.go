// Package incoming reads what people send to us: what of an email they wrote, what is
// automatic, and which words stop, start or ask for help.
package incoming

import (
	"regexp"
	"slices"
	"strings"
)

var (
	// An earlier message follows: a line between dashes, or a long rule.
	follows = regexp.MustCompile(`^(-{2,}\s*\pL.*\pL\s*-{2,}|_{10,}|-{20,})$`)
	// A signature follows (RFC 3676 §4.3), as mailboxes that cut blanks have it too.
	signature = regexp.MustCompile(`^-- ?$`)
)

// Fold parts the text of an email into what its writer wrote and what is folded away:
// the signature and the quotation that ends, or begins, the text.
func Fold(text string) (said, folded string) {
	lines := strings.Split(strings.ReplaceAll(strings.TrimSpace(text), "\r\n", "\n"), "\n")
	end := len(lines)
	for i, line := range lines {
		line = strings.TrimRight(line, " \t")
		if follows.MatchString(line) || signature.MatchString(line) {
			end = i
			break
		}
	}
	from, to := written(lines[:end])
	said = joined(lines[from:to])
	folded = joined(slices.Concat(lines[:from], lines[to:]))
	return said, folded
}

func joined(lines []string) string { return strings.TrimSpace(strings.Join(lines, "\n")) }

func quotes(line string) bool { return strings.HasPrefix(strings.TrimSpace(line), ">") }

func blank(line string) bool { return strings.TrimSpace(line) == "" }

// written are the lines that are no quotation, from and to; all of them where quotations
// and words alternate.
func written(lines []string) (from, to int) {
	first := slices.IndexFunc(lines, quotes)
	if first < 0 {
		return 0, len(lines)
	}
	last := first
	for i := first; i < len(lines); i++ {
		if quotes(lines[i]) {
			last = i
		}
	}
	above := introduced(lines[:first])
	words := func(some []string) bool { return slices.ContainsFunc(some, func(l string) bool { return !blank(l) }) }
	between := slices.ContainsFunc(lines[first:last], func(l string) bool { return !quotes(l) && !blank(l) })
	switch below := words(lines[last+1:]); {
	case between, below && words(lines[:above]):
		return 0, len(lines)
	case below:
		return last + 1, len(lines)
	}
	return 0, above
}

// introduced is where the line begins that introduces a quotation, such as “On Thursday
// Ana wrote:”, which may be broken in two; the end if none does.
func introduced(lines []string) int {
	end := len(lines)
	for end > 0 && blank(lines[end-1]) {
		end--
	}
	if end == 0 || !strings.HasSuffix(strings.TrimSpace(lines[end-1]), ":") {
		return len(lines)
	}
	if end > 1 && len(strings.Fields(lines[end-1])) <= 3 && !blank(lines[end-2]) {
		return end - 2
	}
	return end - 1
}
