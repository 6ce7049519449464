package form

import (
	"reflect"
	"sync"

	"lazo/core/expr"
)

// Clone copies a form as it was written, so that the copy can be changed. Entries of the
// workspace's lists are shared, since nobody changes them here, and so are numbers.
func (f *Form) Clone() *Form {
	out := copied(reflect.ValueOf(f)).Interface().(*Form)
	out.translation, out.languages = nil, nil
	return out
}

func copied(v reflect.Value) reflect.Value {
	if !refers(v.Type()) {
		return v
	}
	switch v.Kind() {
	case reflect.Pointer, reflect.Slice, reflect.Map, reflect.Interface:
		if v.IsNil() {
			return v
		}
	}
	out := reflect.New(v.Type()).Elem()
	switch v.Kind() {
	case reflect.Pointer:
		out.Set(reflect.New(v.Type().Elem()))
		out.Elem().Set(copied(v.Elem()))
	case reflect.Interface:
		out.Set(copied(v.Elem()))
	case reflect.Slice:
		out.Set(reflect.MakeSlice(v.Type(), v.Len(), v.Len()))
		for i := range v.Len() {
			out.Index(i).Set(copied(v.Index(i)))
		}
	case reflect.Map:
		out.Set(reflect.MakeMapWithSize(v.Type(), v.Len()))
		for key, one := range v.Seq2() {
			out.SetMapIndex(key, copied(one))
		}
	case reflect.Struct:
		out.Set(v)
		if l, ok := v.Interface().(List); ok && l.Shared != "" {
			return out
		}
		for i := range v.NumField() {
			if field := v.Type().Field(i); field.IsExported() && refers(field.Type) {
				out.Field(i).Set(copied(v.Field(i)))
			}
		}
	}
	return out
}

var (
	number    = reflect.TypeFor[expr.Number]()
	referring sync.Map // whether a type refers to something that could be changed
)

// refers reports whether values of a type refer to something that could be changed, so
// that a copy of them is not enough.
func refers(t reflect.Type) bool {
	if known, ok := referring.Load(t); ok {
		return known.(bool)
	}
	is := false
	switch t.Kind() {
	case reflect.Pointer:
		is = t.Elem() != number
	case reflect.Slice, reflect.Map, reflect.Interface:
		is = true
	case reflect.Struct:
		for i := range t.NumField() {
			field := t.Field(i)
			is = is || t != number && field.IsExported() && refers(field.Type)
		}
	}
	referring.Store(t, is)
	return is
}
