package respond

import (
	"net/http"

	"github.com/go-chi/chi/v5"
)

// picture serves a picture of a note or choice to whoever has its random address.
func (s *Side) picture(w http.ResponseWriter, r *http.Request) error {
	p, err := s.store.PictureByID(r.Context(), chi.URLParam(r, "picture"))
	if err != nil {
		return err
	}
	w.Header().Set("Content-Type", p.MediaType)
	w.Header().Set("Cache-Control", "public, max-age=2592000, immutable")
	_, _ = w.Write(p.Data)
	return nil
}
