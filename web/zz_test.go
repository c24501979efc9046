package web_test

import (
	"fmt"
	"testing"
)

func TestZZ(t *testing.T) {
	base, _ := demoStore(t)
	c, _, page := as(t, base, "maren").get("/ledger/2")
	fmt.Println(c, len(page))
}
