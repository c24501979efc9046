//go:build unix

package ops

import (
	"io/fs"
	"os"
	"os/user"
	"strconv"
	"syscall"
)

// ownerOf returns the owner of a file, as name and group; ok is false where that is not known.
func ownerOf(info fs.FileInfo) (uid, gid int, name string, ok bool) {
	s, ok := info.Sys().(*syscall.Stat_t)
	if !ok {
		return 0, 0, "", false
	}
	uid, gid = int(s.Uid), int(s.Gid)
	name = strconv.Itoa(uid)
	if u, err := user.LookupId(name); err == nil {
		name = u.Username
	}
	return uid, gid, name, true
}

// giveLike gives a file to whom another one, or a folder, belongs. Only root can, and needs to: what root writes for a
// service would be root's.
func giveLike(path string, like fs.FileInfo) error {
	uid, gid, _, ok := ownerOf(like)
	if !ok || os.Geteuid() != 0 {
		return nil
	}
	return os.Chown(path, uid, gid)
}
