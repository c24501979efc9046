package ui

import (
	"strconv"
	"strings"

	"cavix/core/exercise"
	"cavix/core/text"
)

// OptionView is one option of a list.
type OptionView struct {
	Value string
	Text  text.Text
	On    bool
}

// SettingView is one thing to choose, as a form offers it.
type SettingView struct {
	Field     string
	Name, Why text.Text
	Options   []OptionView
	Error     text.Text
}

// MethodView are the settings of a school, as a form offers them.
type MethodView struct {
	Settings  []SettingView
	Tolerance string
	Error     text.Text // at the tolerance
}

// MethodOf lists the settings as a method has them. A sheet may leave each to its class.
func MethodOf(m exercise.Method, open bool, errs map[string]text.Text) MethodView {
	out := MethodView{Error: errs["method.tenths_tolerance"]}
	if m.TenthsTolerance != nil {
		out.Tolerance = strconv.Itoa(*m.TenthsTolerance)
	}
	for _, s := range exercise.MethodSettings {
		v := SettingView{Field: "method." + s.Field, Name: s.Name, Why: s.Why, Error: errs["method."+s.Field]}
		now := s.Get(m)
		if open {
			v.Options = append(v.Options, OptionView{"", text.New("ui.school.method-of"), now == ""})
		}
		for i, c := range s.Choices {
			v.Options = append(v.Options, OptionView{c.Value, c.Words, now == c.Value || !open && now == "" && i == 0})
		}
		out.Settings = append(out.Settings, v)
	}
	return out
}

// MethodForm are the settings of a school as a form sends them.
type MethodForm struct {
	Between      string `form:"between"`
	Tie          string `form:"tie"`
	Route        string `form:"route"`
	NegativeZero string `form:"negative_zero"`
	ZeroTerm     string `form:"zero_term"`
	ZeroSign     string `form:"zero_sign"`
	Decimals     string `form:"decimals"`
	Unit         string `form:"unit"`
	Tolerance    string `form:"tenths_tolerance"`
}

// NewMethodForm is the form that holds a method.
func NewMethodForm(m exercise.Method) MethodForm {
	at := map[string]string{}
	for _, s := range exercise.MethodSettings {
		at[s.Field] = s.Get(m)
	}
	f := MethodForm{Between: at["between"], Tie: at["tie"], Route: at["route"], NegativeZero: at["negative_zero"],
		ZeroTerm: at["zero_term"], ZeroSign: at["zero_sign"], Decimals: at["decimals"], Unit: at["unit"]}
	if m.TenthsTolerance != nil {
		f.Tolerance = strconv.Itoa(*m.TenthsTolerance)
	}
	return f
}

// Method reads the settings; what is none of the choices is a fault of its field.
func (f MethodForm) Method(bad *Faults) exercise.Method {
	var m exercise.Method
	typed := map[string]string{"between": f.Between, "tie": f.Tie, "route": f.Route, "negative_zero": f.NegativeZero,
		"zero_term": f.ZeroTerm, "zero_sign": f.ZeroSign, "decimals": f.Decimals, "unit": f.Unit}
	for _, s := range exercise.MethodSettings {
		if err := s.Set(&m, typed[s.Field]); err != nil {
			bad.Add("method."+s.Field, "ui.school.method")
		}
	}
	if says := strings.TrimSpace(f.Tolerance); says != "" {
		n, err := strconv.Atoi(says)
		if err != nil || n < 0 || n > 9 {
			bad.Add("method.tenths_tolerance", "ui.school.from-0-9-tenths")
		} else {
			m.TenthsTolerance = &n
		}
	}
	return m
}
