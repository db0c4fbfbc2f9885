// Package readaloud reads text aloud with espeak-ng, a program of the machine.
package readaloud

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os/exec"
	"strings"

	"golang.org/x/text/language"
)

// ErrSilent means that nothing can be read aloud on this machine.
var ErrSilent = errors.New(
	"messages cannot be read aloud here: the program espeak-ng is not installed; use a recording, or install it",
)

const program = "espeak-ng"

// Available reports whether text can be read aloud.
func Available() bool {
	_, err := exec.LookPath(program)
	return err == nil
}

// Say reads a text aloud in a language (BCP 47) and returns it as a WAV file.
// A language that espeak-ng does not speak is an error that says so.
func Say(ctx context.Context, text, tag string, wordsPerMinute int) ([]byte, error) {
	if !Available() {
		return nil, ErrSilent
	}
	// The text comes by standard input: it can be neither an option nor too long.
	cmd := exec.CommandContext(ctx, program, "-v", voice(tag), "-s", fmt.Sprint(wordsPerMinute), "--stdin", "--stdout")
	cmd.Stdin = strings.NewReader(text)
	var sound, said bytes.Buffer
	cmd.Stdout, cmd.Stderr = &sound, &said
	if err := cmd.Run(); err != nil {
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		return nil, fmt.Errorf("%w: %s: %s", ErrLanguage, tag, strings.TrimSpace(said.String()))
	}
	return repair(sound.Bytes()), nil
}

// ErrLanguage means that there is no voice for a language.
var ErrLanguage = errors.New("there is no voice for this language")

// voices are espeak-ng's names where they differ from the base language.
var voices = map[string]string{"zh": "cmn", "pt-BR": "pt-br", "en": "en-gb"}

func voice(tag string) string {
	parsed := language.Make(tag)
	base, _ := parsed.Base()
	region, confidence := parsed.Region()
	if confidence == language.Exact {
		if v, ok := voices[base.String()+"-"+region.String()]; ok {
			return v
		}
	}
	if v, ok := voices[base.String()]; ok {
		return v
	}
	return base.String()
}

// WAV header offsets (RIFF WAVE, canonical 44 bytes).
const (
	riffSize   = 4
	byteRate   = 28
	dataSize   = 40
	headerSize = 44
)

// repair writes the true sizes into a WAV file that was made while its length
// was not known yet.
func repair(wav []byte) []byte {
	if len(wav) >= headerSize {
		put(wav[riffSize:], len(wav)-8)
		put(wav[dataSize:], len(wav)-headerSize)
	}
	return wav
}

func put(at []byte, n int) {
	at[0], at[1], at[2], at[3] = byte(n), byte(n>>8), byte(n>>16), byte(n>>24)
}

// Seconds is the length of a WAV file, rounded up; 0 for what is none.
func Seconds(wav []byte) int {
	if len(wav) < headerSize || string(wav[:4]) != "RIFF" || string(wav[8:12]) != "WAVE" {
		return 0
	}
	b := wav[byteRate:]
	rate := int(b[0]) | int(b[1])<<8 | int(b[2])<<16 | int(b[3])<<24
	if rate <= 0 {
		return 0
	}
	return (len(wav) - headerSize + rate - 1) / rate
}
