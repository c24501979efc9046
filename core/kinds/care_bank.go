package kinds

import (
	"encoding/json"
	"fmt"
	"strconv"
	"strings"

	"cavix/core/exercise"
	"cavix/core/refusal"
	"cavix/core/text"
)

// The fields in which somebody writes an item of care.
const (
	bankCare     = "sort"
	bankQuestion = "question"
	bankLines    = "lines"
	bankBefore   = "before"
	bankRight    = "right"
	bankReason   = "reason"
)

// Bank are the fields of an item's form.
func (care) Bank() []exercise.Setting {
	return []exercise.Setting{
		{Name: bankCare, Title: text.New("care.bank.title"), Input: exercise.OneOf, Default: careOrder,
			Choices: []exercise.Choice{
				{Value: careOrder, Words: text.New("care.bank.words")},
				{Value: careSpot, Words: text.New("care.bank.which-statement-wrong")},
				{Value: careNext, Words: text.New("care.bank.what-comes-next")}}},
		{
			Name:  bankQuestion,
			Title: text.New("care.bank.question"),
			Input: exercise.Number,
			Why:   text.New("care.bank.why"),
		},
		{Name: bankLines, Title: text.New("care.bank.steps-statements"), Input: exercise.Lines,
			Why: text.New("care.bank.one-line-from-3")},
		{Name: bankBefore, Title: text.New("care.bank.steps-whose-order-matters"), Input: exercise.Number,
			Why: text.New("care.bank.as-1-2-2")},
		{
			Name:  bankRight,
			Title: text.New("care.bank.statement-choose"),
			Input: exercise.Number,
			Why:   text.New("care.bank.its-number-list-from"),
		},
		{Name: bankReason, Title: text.New("care.bank.reason"), Input: exercise.Lines,
			Why: text.New("care.bank.what-students-told-what")},
	}
}

// Shipped are the items that come with the program.
func (care) Shipped() []json.RawMessage {
	var out []json.RawMessage
	if err := json.Unmarshal(bankText, &out); err != nil {
		panic("the bank of care cannot be read: " + err.Error()) // it is part of the program, and a test reads it
	}
	return out
}

// Write makes the body of an item from the fields of its form.
func (care) Write(form map[string]string) (json.RawMessage, error) {
	var bad refusal.Refusal
	it := Care{Care: form[bankCare], Reason: oneLine(form[bankReason])}
	var list []string
	for l := range strings.SplitSeq(form[bankLines], "\n") {
		if l = oneLine(l); l != "" {
			list = append(list, l)
		}
	}
	if len(list) < 3 || len(list) > 7 {
		bad.Add(bankLines, "care.write", "list", len(list))
	}
	for _, l := range list {
		if len([]rune(l)) > 200 {
			bad.Add(bankLines, "care.short-one-longer-than")
			break
		}
	}
	if n := len([]rune(it.Reason)); n == 0 || n > 400 {
		bad.Add(bankReason, "care.what-students-learn-from")
	}
	switch it.Care {
	case careOrder:
		it.Steps = list
		it.Before = pairs(form[bankBefore], len(list), &bad)
		if len(bad) == 0 && it.inOrder() == nil {
			bad.Add(bankBefore, "care.goes-round-circle-no-b")
		}
	case careSpot, careNext:
		it.Statements = list
		n, err := strconv.Atoi(strings.TrimSpace(form[bankRight]))
		if err != nil || n < 1 || n > len(list) {
			bad.Add(bankRight, "care.number-statement-from-1", "max", max(1, len(list)))
		}
		it.Right = n
		if it.Care == careNext {
			if it.Question = oneLine(form[bankQuestion]); it.Question == "" || len([]rune(it.Question)) > 300 {
				bad.Add(bankQuestion, "care.missing-too-long-say")
			}
		}
	default:
		bad.Add(bankCare, "care.none-choices")
	}
	if err := bad.Err(); err != nil {
		return nil, err
	}
	return json.Marshal(&it)
}

// pairs reads "1-2, 2-4"; nothing stands for each step before the next.
func pairs(text string, steps int, bad *refusal.Refusal) (out [][2]int) {
	if strings.TrimSpace(text) == "" {
		for i := 1; i < steps; i++ {
			out = append(out, [2]int{i, i + 1})
		}
		return out
	}
	for _, one := range strings.FieldsFunc(text, func(r rune) bool {
		return r == ',' || r == ';' || r == '\n' ||
			r == ' '
	}) {
		a, b, _ := strings.Cut(one, "-")
		first, err1 := strconv.Atoi(a)
		second, err2 := strconv.Atoi(b)
		if err1 != nil || err2 != nil || first < 1 || second < 1 || first > steps || second > steps || first == second {
			bad.Add(bankBefore, "care.pairs", "steps", steps, "one", one)
			return nil
		}
		out = append(out, [2]int{first, second})
	}
	return out
}

// Form fills the fields of a form with an item.
func (care) Form(body json.RawMessage, say *text.Printer) (map[string]string, error) {
	var it Care
	if err := exercise.DecodeBody(body, &it); err != nil {
		return nil, err
	}
	var lines []string
	for _, line := range said(it.list()) {
		lines = append(lines, say.Print(line))
	}
	out := map[string]string{bankCare: it.Care, bankQuestion: say.Print(shipped(it.Question)),
		bankLines: strings.Join(lines, "\n"), bankReason: say.Print(shipped(it.Reason))}
	if it.Right > 0 {
		out[bankRight] = strconv.Itoa(it.Right)
	}
	var before []string
	for _, p := range it.Before {
		before = append(before, fmt.Sprintf("%d-%d", p[0], p[1]))
	}
	out[bankBefore] = strings.Join(before, ", ")
	return out, nil
}

// Says is an item in a line.
func (care) Says(body json.RawMessage) text.Text {
	var it Care
	if exercise.DecodeBody(body, &it) != nil {
		return text.Text{}
	}
	switch it.Care {
	case careNext:
		return text.New("care.says-next", "question", shipped(it.Question))
	case careSpot:
		return text.New("care.says-spot", "statement",
			shipped(it.Statements[min(max(it.Right, 1), len(it.Statements))-1]))
	}
	return text.New("care.says-order", "steps", text.Row(said(it.Steps)...))
}

// bank are the items that a block draws from: its own, or those that come with the program.
func (care) bank(b exercise.Block) ([]Care, error) {
	if b.Bank == nil {
		return Bank(), nil
	}
	out := make([]Care, len(b.Bank))
	for i, body := range b.Bank {
		if err := exercise.DecodeBody(body, &out[i]); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func oneLine(s string) string { return strings.Join(strings.Fields(s), " ") }
