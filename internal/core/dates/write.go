package dates

import (
	"fmt"
	"time"

	"golang.org/x/text/language"
)

// written is how a language writes a day: a pattern of day, month and year.
type written struct {
	pattern string // %[1]d is the day, %[2]s the month, %[3]d the year
	months  [12]string
}

// Source: Unicode CLDR, dateFormats long and months format wide.
var languages = map[string]written{
	"en": {"%[1]d %[2]s %[3]d", [12]string{"January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November", "December"}},
	"es": {"%[1]d de %[2]s de %[3]d", [12]string{"enero", "febrero", "marzo", "abril", "mayo", "junio", "julio", "agosto", "septiembre", "octubre", "noviembre", "diciembre"}},
	"pt": {"%[1]d de %[2]s de %[3]d", [12]string{"janeiro", "fevereiro", "março", "abril", "maio", "junho", "julho", "agosto", "setembro", "outubro", "novembro", "dezembro"}},
	"pl": {"%[1]d %[2]s %[3]d", [12]string{"stycznia", "lutego", "marca", "kwietnia", "maja", "czerwca", "lipca", "sierpnia", "września", "października", "listopada", "grudnia"}},
	"uk": {"%[1]d %[2]s %[3]d р.", [12]string{"січня", "лютого", "березня", "квітня", "травня", "червня", "липня", "серпня", "вересня", "жовтня", "листопада", "грудня"}},
	"ar": {"%[1]d %[2]s %[3]d", [12]string{"يناير", "فبراير", "مارس", "أبريل", "مايو", "يونيو", "يوليو", "أغسطس", "سبتمبر", "أكتوبر", "نوفمبر", "ديسمبر"}},
	"vi": {"%[1]d %[2]s, %[3]d", [12]string{"tháng 1", "tháng 2", "tháng 3", "tháng 4", "tháng 5", "tháng 6", "tháng 7", "tháng 8", "tháng 9", "tháng 10", "tháng 11", "tháng 12"}},
	"zh": {"%[3]d年%[2]s%[1]d日", [12]string{"1月", "2月", "3月", "4月", "5月", "6月", "7月", "8月", "9月", "10月", "11月", "12月"}},
}

// Write writes a day (ISO 8601) the way a language (BCP 47) does, such as 13 June
// 2026. A language that is not here gets the day as it is.
func Write(day, tag string) string {
	at, err := time.Parse(time.DateOnly, day)
	if err != nil {
		return day
	}
	base, _ := language.Make(tag).Base()
	how, ok := languages[base.String()]
	if !ok {
		return day
	}
	return fmt.Sprintf(how.pattern, at.Day(), how.months[at.Month()-1], at.Year())
}
