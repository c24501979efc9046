package platform

import "encoding/xml"

// The elements of the format that are used, in the order in which it wants them.

type manifest struct {
	XMLName       xml.Name      `xml:"http://www.imsglobal.org/xsd/imscp_v1p1 manifest"`
	Identifier    string        `xml:"identifier,attr"`
	Metadata      metadata      `xml:"metadata"`
	Organizations organizations `xml:"organizations"`
	Resources     []resource    `xml:"resources>resource"`
}

type metadata struct {
	Schema  string `xml:"schema"`
	Version string `xml:"schemaversion"`
}

type organizations struct{}

type resource struct {
	Identifier string     `xml:"identifier,attr"`
	Type       string     `xml:"type,attr"`
	Href       string     `xml:"href,attr"`
	Files      []fileHref `xml:"file"`
}

type fileHref struct {
	Href string `xml:"href,attr"`
}

func newResource(id, kind, href string, files []string) resource {
	r := resource{id, kind, href, []fileHref{{href}}}
	for _, f := range files {
		r.Files = append(r.Files, fileHref{f})
	}
	return r
}

type assessmentTest struct {
	XMLName    xml.Name `xml:"http://www.imsglobal.org/xsd/imsqti_v2p2 assessmentTest"`
	Identifier string   `xml:"identifier,attr"`
	Title      string   `xml:"title,attr"`
	Part       testPart `xml:"testPart"`
}

type testPart struct {
	Identifier string    `xml:"identifier,attr"`
	Navigation string    `xml:"navigationMode,attr"`
	Submission string    `xml:"submissionMode,attr"`
	Sections   []section `xml:"assessmentSection"`
}

type section struct {
	Identifier string    `xml:"identifier,attr"`
	Title      string    `xml:"title,attr"`
	Visible    bool      `xml:"visible,attr"`
	Items      []itemRef `xml:"assessmentItemRef"`
}

type itemRef struct {
	Identifier string `xml:"identifier,attr"`
	Href       string `xml:"href,attr"`
}

type assessmentItem struct {
	XMLName    xml.Name   `xml:"http://www.imsglobal.org/xsd/imsqti_v2p2 assessmentItem"`
	Identifier string     `xml:"identifier,attr"`
	Title      string     `xml:"title,attr"`
	Adaptive   bool       `xml:"adaptive,attr"`
	Timed      bool       `xml:"timeDependent,attr"`
	Response   response   `xml:"responseDeclaration"`
	Outcomes   []outcome  `xml:"outcomeDeclaration"`
	Body       body       `xml:"itemBody"`
	Processing processing `xml:"responseProcessing"`
	Modal      []modal    `xml:"modalFeedback"`
}

type response struct {
	Identifier  string  `xml:"identifier,attr"`
	Cardinality string  `xml:"cardinality,attr"`
	Type        string  `xml:"baseType,attr"`
	Correct     correct `xml:"correctResponse"`
}

type correct struct {
	Value string `xml:"value"`
}

type outcome struct {
	Identifier  string `xml:"identifier,attr"`
	Cardinality string `xml:"cardinality,attr"`
	Type        string `xml:"baseType,attr"`
	Default     *value `xml:"defaultValue"`
}

type value struct {
	Value string `xml:"value"`
}

type body struct {
	Paragraphs []paragraph        `xml:"p"`
	Choice     *choiceInteraction `xml:"choiceInteraction"`
}

// paragraph is a text, a picture, or a box between its name and its unit.
type paragraph struct {
	Text    string     `xml:",chardata"`
	Picture *picture   `xml:"object"`
	Entry   *textEntry `xml:"textEntryInteraction"`
	Unit    string     `xml:",chardata"`
}

type picture struct {
	Data   string `xml:"data,attr"`
	Type   string `xml:"type,attr"`
	Width  int    `xml:"width,attr"`
	Height int    `xml:"height,attr"`
	Image  image  `xml:"img"`
}

type image struct {
	Source string `xml:"src,attr"`
	Alt    string `xml:"alt,attr"`
}

type textEntry struct {
	Response string `xml:"responseIdentifier,attr"`
	Length   int    `xml:"expectedLength,attr"`
}

type choiceInteraction struct {
	Response string         `xml:"responseIdentifier,attr"`
	Shuffle  bool           `xml:"shuffle,attr"`
	Max      int            `xml:"maxChoices,attr"`
	Prompt   string         `xml:"prompt"`
	Choices  []simpleChoice `xml:"simpleChoice"`
}

type simpleChoice struct {
	Identifier string `xml:"identifier,attr"`
	Text       string `xml:",chardata"`
}

type processing struct {
	Condition condition `xml:"responseCondition"`
}

type condition struct {
	If   branch   `xml:"responseIf"`
	Else []branch `xml:"responseElseIf"`
}

type branch struct {
	Equal *equal     `xml:"equal"`
	Match *match     `xml:"match"`
	Text  *match     `xml:"stringMatch"`
	Sets  []setValue `xml:"setOutcomeValue"`
}

type equal struct {
	Mode      string    `xml:"toleranceMode,attr"`
	Tolerance string    `xml:"tolerance,attr"`
	Variable  variable  `xml:"variable"`
	Correct   *variable `xml:"correct"`
	Base      *base     `xml:"baseValue"`
}

type match struct {
	Case     *bool     `xml:"caseSensitive,attr"` // only where texts are compared
	Variable variable  `xml:"variable"`
	Correct  *variable `xml:"correct"`
}

type variable struct {
	Identifier string `xml:"identifier,attr"`
}

type base struct {
	Type  string `xml:"baseType,attr"`
	Value string `xml:",chardata"`
}

type setValue struct {
	Identifier string `xml:"identifier,attr"`
	Value      base   `xml:"baseValue"`
}

// scored are the outcomes of a right answer.
func scored(feedback string) []setValue {
	return append([]setValue{{"SCORE", base{"float", "1"}}}, told(feedback)...)
}

// told is the outcome that shows a feedback.
func told(feedback string) []setValue {
	return []setValue{{"FEEDBACK", base{"identifier", feedback}}}
}

type modal struct {
	Outcome    string `xml:"outcomeIdentifier,attr"`
	Identifier string `xml:"identifier,attr"`
	Show       string `xml:"showHide,attr"`
	Text       string `xml:"p"`
}
