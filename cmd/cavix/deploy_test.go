package main

import (
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/web/ui"
)

// commandLines are the lines of this program in a text: in code of its own, or within a sentence.
var commandLines = regexp.MustCompile("(?m)(?:^|`|-- |/usr/local/bin/)cavix ([a-z]+(?: [^`\n#]*)?)")

// Every command line of the README, of the pages for whoever keeps a server and of the unit is one that the program
// takes.
func TestWhatIsWrittenDownCanBeTyped(t *testing.T) {
	for file, least := range map[string]int{"../../README.md": 5, "../../docs/keeping.md": 6,
		"../../deploy/cavix.service": 2} {
		says, err := os.ReadFile(file)
		require.NoError(t, err)
		lines := commandLines.FindAllStringSubmatch(string(says), -1)
		assert.GreaterOrEqual(t, len(lines), least, file)
		for _, line := range lines {
			root := newRoot(io.Discard, io.Discard)
			command, rest, err := root.Find(strings.Fields(line[1]))
			if assert.NoError(t, err, "%s: %s", file, line[0]) {
				assert.NoError(t, command.ParseFlags(rest), "%s: %s", file, line[0])
			}
		}
	}
}

// nginx as Debian has it takes the file that is handed out, and lets through what the server does.
func TestNginxTakesItsFile(t *testing.T) {
	says, err := os.ReadFile("../../deploy/nginx.conf")
	require.NoError(t, err)
	size := regexp.MustCompile(`client_max_body_size (\d+)m;`).FindSubmatch(says)
	require.NotNil(t, size)
	most, err := strconv.Atoi(string(size[1]))
	require.NoError(t, err)
	assert.GreaterOrEqual(t, most<<20, ui.MostForm)
	nginx, err := exec.LookPath("nginx")
	if err != nil {
		t.Skip("nginx is not installed")
	}
	dir := t.TempDir()
	key, cert := filepath.Join(dir, "key.pem"), filepath.Join(dir, "cert.pem")
	out, err := exec.Command("openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-subj",
		"/CN=measuring.example.org", "-keyout", key, "-out", cert).CombinedOutput()
	if err != nil {
		t.Skipf("no certificate could be made: %s", out)
	}
	site := strings.NewReplacer("/etc/ssl/measuring/privkey.pem", key, "/etc/ssl/measuring/fullchain.pem",
		cert).Replace(string(says))
	conf := file(t, "nginx.conf",
		"pid "+dir+"/pid;\nerror_log "+dir+"/log;\nevents {}\nhttp {\naccess_log off;\n"+site+"}\n")
	out, err = exec.Command(nginx, "-t", "-p", dir, "-c", conf).CombinedOutput()
	assert.NoError(t, err, string(out))
}
