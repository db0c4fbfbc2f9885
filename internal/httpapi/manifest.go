package httpapi

import (
	"encoding/json"
	"net/http"

	"github.com/go-chi/chi/v5"

	"upperlantern/internal/httpapi/route"
)

// manifest describes a kept personal page to a browser that installs it (W3C Web
// Application Manifest).
func (s *server) manifest(w http.ResponseWriter, r *http.Request) {
	if s.Editor == nil {
		route.Write(w, http.StatusNotFound, "There is no organisation yet.")
		return
	}
	v, err := s.Editor.Visit(r.Context(), chi.URLParam(r, "token"))
	if err != nil || v.Kept.ID == 0 {
		route.Write(w, http.StatusNotFound, "This page is not kept.")
		return
	}
	page := "/own/" + chi.URLParam(r, "token")
	w.Header().Set("Content-Type", "application/manifest+json")
	w.Header().Set("Cache-Control", "no-store")
	_ = json.NewEncoder(w).Encode(map[string]any{ // whoever asked is gone if that fails
		"name": v.Organisation.Name, "short_name": v.Organisation.Name, "id": page, "start_url": page, "scope": "/own/",
		"display": "standalone", "background_color": "#e7edef", "theme_color": "#0f2f3a",
		"icons": []map[string]string{{"src": "/lantern.svg", "sizes": "any", "type": "image/svg+xml"}},
	})
}

// toOwn leads from where personal pages stood, as sheets on paper may have it.
func toOwn(w http.ResponseWriter, r *http.Request) {
	http.Redirect(w, r, "/own/"+chi.URLParam(r, "token"), http.StatusMovedPermanently)
}
