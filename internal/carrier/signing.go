package carrier

import (
	"bufio"
	"crypto"
	"crypto/rand"
	"crypto/rsa"
	"crypto/x509"
	"encoding/base64"
	"encoding/pem"
	"errors"
	"fmt"
	"io"
	"net/textproto"
	"strings"

	"github.com/emersion/go-msgauth/authres"

	"upperlantern/internal/core/carrying"
)

// signingBits is the length of keys that mail servers accept and that fit into the
// domain name system (RFC 8301 §3.2).
const signingBits = 2048

// NewSigningKey makes a key to sign emails with, as PEM (PKCS #8).
func NewSigningKey() (string, error) {
	key, err := rsa.GenerateKey(rand.Reader, signingBits)
	if err != nil {
		return "", err
	}
	der, err := x509.MarshalPKCS8PrivateKey(key)
	if err != nil {
		return "", err
	}
	return string(pem.EncodeToMemory(&pem.Block{Type: "PRIVATE KEY", Bytes: der})), nil
}

// ReadSigningKey reads a key that NewSigningKey made, and what of it is published: the
// base64 of its public half (RFC 6376 §3.6.1).
func ReadSigningKey(text string) (key crypto.Signer, public string, err error) {
	block, _ := pem.Decode([]byte(text))
	if block == nil {
		return nil, "", errors.New("the key to sign emails with is no PEM")
	}
	parsed, err := x509.ParsePKCS8PrivateKey(block.Bytes)
	if err != nil {
		return nil, "", fmt.Errorf("the key to sign emails with: %w", err)
	}
	key, ok := parsed.(crypto.Signer)
	if !ok {
		return nil, "", errors.New("the key to sign emails with cannot sign")
	}
	der, err := x509.MarshalPKIXPublicKey(key.Public())
	if err != nil {
		return nil, "", fmt.Errorf("the key to sign emails with: %w", err)
	}
	return key, base64.StdEncoding.EncodeToString(der), nil
}

// ErrNoResults means that a mail carries no word on whether it is genuine.
var ErrNoResults = errors.New("there is no Authentication-Results line in this")

// ReadResults reads what a mail server says of an email that it took, in the header
// that a person copied out of it (RFC 8601).
func ReadResults(source string) ([]carrying.Verdict, error) {
	// Whoever copies does not always take the empty line along that ends a header.
	r := textproto.NewReader(bufio.NewReader(strings.NewReader(strings.TrimLeft(source, "\r\n \t") + "\r\n\r\n")))
	header, err := r.ReadMIMEHeader()
	if err != nil && !errors.Is(err, io.EOF) && len(header) == 0 {
		return nil, ErrNoResults
	}
	var said []carrying.Verdict
	for _, line := range header.Values("Authentication-Results") {
		_, results, err := authres.Parse(line)
		if err != nil {
			continue
		}
		for _, one := range results {
			switch v := one.(type) {
			case *authres.SPFResult:
				said = append(said, carrying.Verdict{Of: carrying.SPF, Result: string(v.Value)})
			case *authres.DKIMResult:
				said = append(said, carrying.Verdict{Of: carrying.DKIM, Result: string(v.Value)})
			case *authres.DMARCResult:
				said = append(said, carrying.Verdict{Of: carrying.DMARC, Result: string(v.Value)})
			}
		}
	}
	if len(said) == 0 {
		return nil, ErrNoResults
	}
	return said, nil
}
