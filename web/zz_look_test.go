package web_test

import (
	"bufio"
	"os"
	"strconv"
	"strings"
	"testing"
	"time"
)

// /tmp/look.txt: user|WxH[d]|path|out|js ; or "sql|stmt"
func TestZZLook(t *testing.T) {
	f, err := os.Open("/tmp/look.txt")
	if err != nil {
		t.Skip()
	}
	base, s := demoStore(t)
	for sc := bufio.NewScanner(f); sc.Scan(); {
		p := strings.Split(sc.Text(), "|")
		if p[0] == "sql" {
			set(t, s, p[1])
			continue
		}
		dark := strings.HasSuffix(p[1], "d")
		w, h, _ := strings.Cut(strings.TrimSuffix(p[1], "d"), "x")
		W, _ := strconv.ParseInt(w, 10, 64)
		H, _ := strconv.ParseInt(h, 10, 64)
		b := openBrowser(t, base, W, H)
		if p[0] != "-" {
			b.signIn(p[0])
		}
		b.open(p[2])
		if len(p) > 4 && p[4] != "" {
			b.do(run(p[4]))
			time.Sleep(4 * time.Second)
		}
		if dark {
			b.do(run(inTheDark))
		}
		time.Sleep(600 * time.Millisecond)
		b.shoot(p[3])
	}
}
