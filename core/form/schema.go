package form

import (
	_ "embed"
	"encoding/json"
	"sync"
)

// written is the schema but for the types of items and what [Properties] says of items.
//
//go:embed schema.json
var written []byte

// Schema is the JSON Schema (draft 2020-12) of form files.
func Schema() []byte { return whole() }

var whole = sync.OnceValue(func() []byte {
	type object = map[string]any
	var doc object
	err := json.Unmarshal(written, &doc)
	if err != nil {
		panic("form: " + err.Error()) // it ships with the program
	}
	item := doc["$defs"].(object)["item"].(object)["properties"].(object)
	var names []Type
	for _, row := range types {
		names = append(names, row.Type)
	}
	item["type"] = object{"enum": names}
	for _, p := range properties {
		if s := p.schema(); s != nil {
			item[p.Key] = s
		}
	}
	out, err := json.MarshalIndent(doc, "", "  ")
	if err != nil {
		panic("form: " + err.Error())
	}
	return append(out, '\n')
})

// schema is what a property can be; nil for what schema.json says itself.
func (p Property) schema() map[string]any {
	switch p.Kind {
	case AText:
		return map[string]any{"type": "string"}
	case AWord:
		return map[string]any{"enum": p.OneOf}
	case AYes, ANo:
		return map[string]any{"type": "boolean"}
	case ACount:
		return map[string]any{"type": "integer", "minimum": 0}
	case AList:
		return map[string]any{"type": []string{"array", "string"}, "items": map[string]any{"type": "string"}}
	case ATie:
		return map[string]any{"$ref": "#/$defs/rule"}
	case ABound, APlaces:
		if p.Counts {
			return map[string]any{"$ref": "#/$defs/count"}
		}
		return map[string]any{"$ref": "#/$defs/bound"}
	}
	return nil
}
