package outgoing

import (
	"context"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"upperlantern/internal/core/access"
	"upperlantern/internal/core/message"
	"upperlantern/internal/httpapi/route"
)

type versionView struct {
	ID    int64         `json:"id"`
	By    string        `json:"by"`
	At    time.Time     `json:"at"`
	Title string        `json:"title"`
	Plain string        `json:"plain" doc:"How its email read, without formatting"`
	Draft message.Draft `json:"draft"`
}

type mergedView struct {
	Revision int64         `json:"revision" doc:"The one that was made, or the newer one when nothing was kept"`
	Draft    message.Draft `json:"draft" doc:"Both joined; where they clash, what this window says"`
	Clash    []string      `json:"clash" doc:"What both changed; nothing was kept then"`
	Labels   []string      `json:"labels"`
}

func (s *Area) versionRoutes(api huma.API) {
	route.Get(api, "/messages/{id}/versions", "draft-versions", "What a draft was", s.draftVersions, access.Write)
	route.Post(
		api, "/messages/{id}/merge", "merge-draft", "Join what two windows changed, and keep it",
		s.mergeDraft, access.Write,
	)
}

func (s *Area) draftVersions(ctx context.Context, in *MessageID) (*route.Body[[]versionView], error) {
	list, err := s.Messages.Versions(ctx, route.By(ctx), in.ID)
	out := []versionView{}
	for _, v := range list {
		out = append(out, versionView{
			ID: v.ID, By: v.By, At: v.At, Title: v.Draft.Title(), Plain: v.Draft.Email.Plain(), Draft: v.Draft,
		})
	}
	return route.Answer(out), s.Problem(ctx, err)
}

func (s *Area) mergeDraft(ctx context.Context, in *struct {
	MessageID
	Body struct {
		Base  message.Draft `json:"base" doc:"What this window had when it last kept the draft"`
		Draft message.Draft `json:"draft" doc:"What this window has now"`
	}
}) (*route.Body[mergedView], error) {
	merged, err := s.Messages.Merge(ctx, route.By(ctx), in.ID, in.Body.Base, in.Body.Draft)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	r, err := s.Roster(ctx)
	if err != nil {
		return nil, s.Problem(ctx, err)
	}
	return route.Answer(mergedView{
		Revision: merged.Revision, Draft: whole(merged.Draft), Clash: append([]string{}, merged.Clash...),
		Labels: merged.Draft.Audience.Labels(r),
	}), nil
}
