package kinds

import (
	"encoding/json"
	"fmt"
	"strconv"
	"strings"

	"cavix/core/exercise"
	"cavix/core/refusal"
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
		{Name: bankCare, Title: "What is asked", Input: exercise.OneOf, Default: careOrder, Choices: []exercise.Choice{
			{Value: careOrder, Words: "steps in order"}, {Value: careSpot, Words: "which statement is wrong"},
			{Value: careNext, Words: "what comes next"}}},
		{
			Name:  bankQuestion,
			Title: "The question",
			Input: exercise.Number,
			Why:   "Of what comes next: what has just been done.",
		},
		{Name: bankLines, Title: "Steps or statements", Input: exercise.Lines,
			Why: "One a line, from 3 to 7. Steps in an order that is right; they are shuffled for every student."},
		{Name: bankBefore, Title: "Steps whose order matters", Input: exercise.Number,
			Why: "As 1-2, 2-4: the first step before the second, the second before the fourth. Left empty, each before the next."},
		{
			Name:  bankRight,
			Title: "The statement to choose",
			Input: exercise.Number,
			Why:   "Its number in the list, from 1.",
		},
		{Name: bankReason, Title: "Reason", Input: exercise.Lines,
			Why: "What students are told. What can hurt somebody is said in full."},
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
		bad.Add(bankLines, "must be from 3 to 7, one a line; they are %d", len(list))
	}
	for _, l := range list {
		if len([]rune(l)) > 200 {
			bad.Add(bankLines, "must be short: one is longer than 200 characters")
			break
		}
	}
	if n := len([]rune(it.Reason)); n == 0 || n > 400 {
		bad.Add(bankReason, "is what students learn from it: write from 1 to 400 characters")
	}
	switch it.Care {
	case careOrder:
		it.Steps = list
		it.Before = pairs(form[bankBefore], len(list), &bad)
		if len(bad) == 0 && it.inOrder() == nil {
			bad.Add(bankBefore, "goes round in a circle: no order keeps all of it")
		}
	case careSpot, careNext:
		it.Statements = list
		n, err := strconv.Atoi(strings.TrimSpace(form[bankRight]))
		if err != nil || n < 1 || n > len(list) {
			bad.Add(bankRight, "must be the number of a statement, from 1 to %d", max(1, len(list)))
		}
		it.Right = n
		if it.Care == careNext {
			if it.Question = oneLine(form[bankQuestion]); it.Question == "" || len([]rune(it.Question)) > 300 {
				bad.Add(bankQuestion, "is missing or too long: say in up to 300 characters what has just been done")
			}
		}
	default:
		bad.Add(bankCare, "is none of the choices")
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
	for _, one := range strings.FieldsFunc(text, func(r rune) bool { return r == ',' || r == ';' || r == '\n' || r == ' ' }) {
		a, b, _ := strings.Cut(one, "-")
		first, err1 := strconv.Atoi(a)
		second, err2 := strconv.Atoi(b)
		if err1 != nil || err2 != nil || first < 1 || second < 1 || first > steps || second > steps || first == second {
			bad.Add(bankBefore, "must be pairs of step numbers from 1 to %d, as 1-2, 2-4; %q is none", steps, one)
			return nil
		}
		out = append(out, [2]int{first, second})
	}
	return out
}

// Form fills the fields of a form with an item.
func (care) Form(body json.RawMessage) (map[string]string, error) {
	var it Care
	if err := exercise.DecodeBody(body, &it); err != nil {
		return nil, err
	}
	out := map[string]string{bankCare: it.Care, bankQuestion: it.Question, bankLines: strings.Join(it.list(), "\n"),
		bankReason: it.Reason}
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
func (care) Says(body json.RawMessage) string {
	var it Care
	if exercise.DecodeBody(body, &it) != nil {
		return ""
	}
	switch it.Care {
	case careNext:
		return "What comes next? " + it.Question
	case careSpot:
		return "Spot what is wrong: " + it.Statements[max(0, min(it.Right, len(it.Statements))-1)]
	}
	return "In order: " + strings.Join(it.Steps, " · ")
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
