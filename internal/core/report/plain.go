package report

import "strings"

// Plain is a table as text, to be mailed: a paragraph for each row.
func (t Table) Plain() string {
	var b strings.Builder
	b.WriteString(t.Title + "\n" + strings.Join(t.About, "; ") + "\n\n")
	rows := t.Rows
	if t.Total != nil {
		rows = append(rows[:len(rows):len(rows)], *t.Total)
	}
	for _, r := range rows {
		b.WriteString(r.Cells[0].Text + "\n")
		for i, c := range r.Cells[1:] {
			if c.Text != "" {
				b.WriteString("  " + t.Columns[i+1].Name + ": " + c.Text + "\n")
			}
		}
	}
	if len(t.Notes) > 0 {
		b.WriteString("\n" + strings.Join(t.Notes, "\n") + "\n")
	}
	return b.String()
}
