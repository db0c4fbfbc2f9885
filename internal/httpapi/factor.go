package httpapi

import (
	"bytes"
	"context"
	"crypto/rand"
	"encoding/base64"
	"errors"
	"image/png"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
	"github.com/pquerna/otp"

	"upperlantern/internal/core/factor"
	"upperlantern/internal/httpapi/route"
	"upperlantern/internal/seal"
	"upperlantern/internal/store"
)

// pendingFactor is a secret, sealed, that a session was shown and that is not confirmed.
const pendingFactor = "factor"

type offeredFactor struct {
	Secret  string `json:"secret" doc:"To type into a program for codes, base32"`
	URI     string `json:"uri" doc:"The same for programs (otpauth)"`
	Picture string `json:"picture" doc:"The same as a picture to be scanned, a data URL"`
}

type recoveryView struct {
	Codes []string `json:"codes" doc:"Each lets in once; they are shown this once"`
}

func (s *server) factorRoutes(api huma.API) {
	const path = "/session/factor"
	small := func(method, path, id, what string) route.Route { return route.New(method, path, id, what).Small() }
	route.Add(api, small(http.MethodPost, path, "offer-factor", "Begin to set up one's second factor"), s.offerFactor)
	route.Add(api, small(http.MethodPut, path, "confirm-factor", "Set one's second factor up, with a code of it"), s.confirmFactor)
	route.Add(api, small(http.MethodPost, path+"/off", "drop-factor", "Take one's second factor away"), s.dropFactor)
}

func (s *server) offerFactor(ctx context.Context, in *struct {
	Body struct {
		Password string `json:"password" maxLength:"200" doc:"The present one"`
	}
}) (*route.Body[offeredFactor], error) {
	account, err := s.confirmed(ctx, in.Body.Password)
	if err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	o, err := s.Store.Organisation(ctx)
	if err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	var random [factor.SecretSize]byte
	_, _ = rand.Read(random[:]) // it never fails
	out := offeredFactor{Secret: factor.Secret(random)}
	out.URI = factor.URI(out.Secret, o.Name, account.Login)
	if out.Picture, err = picture(out.URI); err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	sealed, err := s.Key.Seal([]byte(out.Secret))
	if err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	s.sessions.Put(ctx, pendingFactor, sealed)
	return route.Answer(out), nil
}

const pictureSize = 220 // pixels

func picture(uri string) (string, error) {
	key, err := otp.NewKeyFromURL(uri)
	if err != nil {
		return "", err
	}
	image, err := key.Image(pictureSize, pictureSize)
	if err != nil {
		return "", err
	}
	var b bytes.Buffer
	if err := png.Encode(&b, image); err != nil {
		return "", err
	}
	return "data:image/png;base64," + base64.StdEncoding.EncodeToString(b.Bytes()), nil
}

func (s *server) confirmFactor(ctx context.Context, in *struct {
	Body struct {
		Code string `json:"code" maxLength:"40"`
	}
}) (*route.Body[recoveryView], error) {
	sealed := s.sessions.GetBytes(ctx, pendingFactor)
	if sealed == nil {
		return nil, huma.Error409Conflict("Begin to set the second factor up first.")
	}
	secret, err := s.Key.Open(sealed)
	if err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	step, ok := factor.Step(string(secret), in.Body.Code, s.Now(), 0)
	if !ok {
		return nil, huma.Error422UnprocessableEntity(
			"This is not the code of this moment. Look whether the clock of the device is right, and type the next one.",
		)
	}
	out, hashes := recoveryView{}, []string{}
	for range factor.RecoveryCodes {
		var random [factor.RecoverySize]byte
		_, _ = rand.Read(random[:])
		code := factor.Recovery(random)
		out.Codes, hashes = append(out.Codes, code), append(hashes, factor.RecoveryHash(code))
	}
	if err := s.Store.SetFactor(ctx, route.By(ctx).ID, sealed, step, hashes); err != nil {
		return nil, s.kit.Problem(ctx, err)
	}
	s.sessions.Remove(ctx, pendingFactor)
	return route.Answer(out), nil
}

func (s *server) dropFactor(ctx context.Context, in *struct {
	Body struct {
		Password string `json:"password" maxLength:"200" doc:"The present one"`
	}
}) (*struct{}, error) {
	account, err := s.confirmed(ctx, in.Body.Password)
	if err == nil {
		err = s.Store.SetFactor(ctx, account.ID, nil, 0, nil)
	}
	return nil, s.kit.Problem(ctx, err)
}

// second reports whether a code, or a recovery code, is one of an account that counts
// now. It counts no more afterwards.
func (s *server) second(ctx context.Context, account store.Account, code string) (bool, error) {
	secret, err := s.Key.Open(account.Factor)
	if err != nil && !errors.Is(err, seal.ErrSealed) { // with a lost key recovery codes still let in
		return false, err
	}
	if step, ok := factor.Step(string(secret), code, s.Now(), account.FactorStep); err == nil && ok {
		err = s.Store.StepFactor(ctx, account.ID, step)
	} else {
		err = s.Store.UseRecoveryCode(ctx, account.ID, factor.RecoveryHash(code))
	}
	if errors.Is(err, store.ErrNotFound) {
		return false, nil
	}
	return err == nil, err
}

// errNeedsCode asks for the second factor of an account whose password was right.
func errNeedsCode() error {
	return huma.Error401Unauthorized("Type the code that your device shows.", &huma.ErrorDetail{
		Location: "body.code", Message: "a second factor is needed",
	})
}
