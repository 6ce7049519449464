package web_test

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/demo"
	"lazo/store"
)

func TestAFormIsFilledInInAnotherLanguage(t *testing.T) {
	def := demo.LakeBulletin()
	def.Key = "bulletin-languages"
	def.Parameters = append(def.Parameters, form.Parameter{Name: "topic"})
	topics := def.Pages[0].Sections[0].Items[2]
	topics.Value = &form.Value{Starts: "url.topic"}
	topics.Required = form.Always
	f := published(t, def)
	address := "/f/" + f.Address
	c := newClient(t)

	_, page := c.get(address)
	assert.Contains(t, page, `<html lang="en-GB" dir="ltr">`)
	assert.Contains(t, page, `value="language:es"`)
	_, page = c.get(address + "?_language=ar")
	assert.Contains(t, page, `<html lang="ar" dir="rtl">`)
	assert.Contains(t, page, "إرسال")
	_, page = c.get(address + "?_language=fr")
	assert.Contains(t, page, `<html lang="en-GB"`, "a language that it is not in")

	req, err := http.NewRequest(http.MethodGet, site.URL+address+"?topic=Training", nil)
	require.NoError(t, err)
	req.Header.Set("Accept-Language", "es-UY,es;q=0.8,en;q=0.5")
	res, err := http.DefaultClient.Do(req)
	require.NoError(t, err)
	defer res.Body.Close()
	body, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	page = string(body)
	assert.Contains(t, page, "Boletín del lago")
	assert.Contains(t, page, `value="training" checked`, "an address may name a choice in the form's own language")
	assert.Contains(t, page, "¿Cuánto tiempo lleva remando?")

	// A mistake is said in Spanish; the switch keeps what was typed, and so does the way on.
	v := fields(page)
	v.Set("a.topics", "training")
	v.Set("a.email", "nadie")
	v.Set("a.first_name", "Ana")
	v.Set("_do", "send")
	status, page := c.post(address, v)
	assert.Equal(t, 422, status)
	assert.Contains(t, page, "Esto no parece una dirección de correo. Revísela, por favor.")
	assert.Contains(t, page, "Revise")
	v = fields(page)
	v.Set("a.topics", "training")
	v.Set("a.first_name", "Ana")
	v.Set("_do", "language:en")
	_, page = c.post(address, v)
	assert.Contains(t, page, "How long have you been rowing?")
	assert.Contains(t, page, `value="Ana"`)
	v = fields(page)
	v.Set("a.topics", "training")
	v.Set("_do", "language:es")
	_, page = c.post(address, v)
	v = fields(page)
	v.Set("a.topics", "training")
	v.Set("a.email", "ana@garzas.example")
	v.Set("a.email#again", "ana@garzas.example")
	_, live := c.post(address+"/live", v)
	assert.NotContains(t, live, "Please")
	v.Set("_do", "send")
	_, page = c.post(address, v)
	assert.Contains(t, page, "Le damos la bienvenida a bordo")
	assert.Contains(t, page, "Lo que envió el ")
	assert.Contains(t, page, "Entrenamiento")

	r, answers := last(t, f)
	assert.Equal(t, "es", r.Language)
	assert.Equal(t, []any{"training"}, answers["topics"], "values are the same in every language")
	desk := newClient(t).signIn()
	_, page = desk.get(fmt.Sprintf("/forms/%d/responses/%s", f.ID, r.ID))
	assert.Contains(t, page, "given in Spanish")
	assert.Contains(t, page, "Training")

	_, page = c.get("/f/no-such-form")
	assert.Contains(t, page, "There is no such page")
}

func TestAFormIsTranslated(t *testing.T) {
	def := demo.LakeBulletin()
	def.Key, def.Translations = "bulletin-translated", nil
	f := published(t, def)
	desk := newClient(t).signIn()
	public, spanish := fmt.Sprintf("/forms/%d/public", f.ID), fmt.Sprintf("/forms/%d/languages/es", f.ID)
	v := func(fields url.Values) url.Values { fields.Set("version", draftVersion(t, f)); return fields }
	for wrong, says := range map[string]string{"spanish please": "is no language", "en-GB": "in British English already"} {
		status, page := desk.post(public, v(url.Values{"part": {"languages"}, "language": {wrong}}))
		assert.Equal(t, 422, status)
		assert.Contains(t, page, says)
	}
	status, _ := desk.get(spanish)
	assert.Equal(t, 404, status)
	_, page := desk.post(public, v(url.Values{"part": {"languages"}, "language": {"es"}}))
	assert.Contains(t, page, "17 texts to translate")
	_, page = desk.get(spanish)
	assert.Contains(t, page, "17 of 17 texts are not translated")

	_, page = desk.post(spanish,
		v(url.Values{"text": {"Lake bulletin", "Results"}, "said-0": {" Boletín "}, "said-1": {""}}))
	assert.Contains(t, page, `value="Boletín"`)
	assert.Contains(t, page, "16 of 17 texts are not translated")
	_, page = desk.post(spanish, v(url.Values{"text": {"Results"}, "said-0": {"Resultados"}}))
	assert.Contains(t, page, "15 of 17", "what is not posted stays")
	_, page = desk.post(public, v(url.Values{"part": {"languages"}, "remove": {"es"}}))
	assert.Contains(t, page, "Add others")
}

func draftVersion(t *testing.T, f store.Form) string {
	now, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).Get(context.Background())
	require.NoError(t, err)
	return fmt.Sprint(now.DraftVersion)
}
