package incoming

import (
	"slices"

	"golang.org/x/text/language"

	"upperlantern/internal/core/roster"
)

// Word is what a text that is a single word can mean to carriers and to us.
type Word string

const (
	Stop  Word = "stop"
	Start Word = "start"
	Help  Word = "help"
	Leave Word = "leave" // a thread in which all see what is said; anywhere else it is no word
)

// words by the base of their language (BCP 47); the English ones are those that the
// networks' own rules name.
var words = map[string]map[Word][]string{
	"en": {
		Stop:  {"stop", "stop all", "stopall", "unsubscribe", "end", "quit", "cancel", "opt out", "optout"},
		Start: {"start", "unstop", "subscribe"}, Help: {"help", "info"},
		Leave: {"leave"},
	},
	"ar": {Stop: {"إيقاف", "ايقاف", "توقف", "قف"}, Start: {"ابدأ", "ابدا", "تشغيل"}, Help: {"مساعدة"}, Leave: {"مغادرة"}},
	"es": {Stop: {"parar", "alto", "baja", "cancelar"}, Start: {"empezar", "alta"}, Help: {"ayuda"}, Leave: {"salir"}},
	"pl": {Stop: {"koniec", "wypisz", "rezygnuję", "zatrzymaj"}, Start: {"wznów", "zapisz"}, Help: {"pomoc"}, Leave: {"wychodzę", "wychodze"}},
	"pt": {Stop: {"parar", "pare", "sair", "cancelar"}, Start: {"começar", "iniciar"}, Help: {"ajuda"}, Leave: {"deixar"}},
	"so": {Stop: {"jooji", "iska jooji"}, Start: {"bilow"}, Help: {"caawimo", "caawin"}, Leave: {"ka bax"}},
	"uk": {Stop: {"стоп", "зупинити", "відписатися"}, Start: {"старт", "почати"}, Help: {"допомога"}, Leave: {"вийти"}},
	"vi": {Stop: {"dừng", "ngừng", "hủy", "huỷ"}, Start: {"bắt đầu"}, Help: {"trợ giúp", "giúp"}, Leave: {"rời", "roi"}},
	"zh": {Stop: {"停止", "退订", "取消"}, Start: {"开始"}, Help: {"帮助"}, Leave: {"离开"}},
}

// longestWord is more than any of the words has, in bytes.
const longestWord = 60

// WordOf is what a text means that is nothing but one of the words, in English or one of
// some languages (BCP 47); "" for any other text.
func WordOf(text string, languages []string) Word {
	if len(text) > longestWord {
		return ""
	}
	said := roster.Fold(text)
	bases := []string{"en"}
	for _, tag := range languages {
		base, _ := language.Make(tag).Base()
		bases = append(bases, base.String())
	}
	for _, base := range bases {
		for word, list := range words[base] {
			if slices.ContainsFunc(list, func(one string) bool { return roster.Fold(one) == said }) {
				return word
			}
		}
	}
	return ""
}
