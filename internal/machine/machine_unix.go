//go:build unix

// Package machine is what is asked of the operating system in its own way: room on
// disks, locks of files, and the time of processors.
package machine

import (
	"errors"
	"os"
	"syscall"
	"time"
)

// Free is how many bytes somebody without special rights can write at a path.
func Free(path string) (int64, error) {
	var s syscall.Statfs_t
	err := syscall.Statfs(path, &s)
	return int64(s.Bavail) * int64(s.Bsize), err
}

// SameDisk tells whether two paths that are there lie on one file system.
func SameDisk(a, b string) bool {
	var of [2]syscall.Stat_t
	return syscall.Stat(a, &of[0]) == nil && syscall.Stat(b, &of[1]) == nil && of[0].Dev == of[1].Dev
}

// Full tells whether an error is that of a disk without room.
func Full(err error) bool { return errors.Is(err, syscall.ENOSPC) }

// Reserve has room on the disk for so many bytes of a file.
func Reserve(f *os.File, size int64) error { return syscall.Fallocate(int(f.Fd()), 0, 0, size) }

// Lock takes a file for this process alone, as long as it is open; an error where
// another has it.
func Lock(f *os.File) error { return syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB) }

// SyncFolder has on the medium which files a folder has.
func SyncFolder(path string) error {
	dir, err := os.Open(path)
	if err != nil {
		return err
	}
	defer dir.Close()
	// Some file systems know no syncing of folders.
	if err := dir.Sync(); err != nil && !errors.Is(err, syscall.EINVAL) {
		return err
	}
	return nil
}

// Flush has what any program wrote on its medium.
func Flush() { syscall.Sync() }

// Unmount takes a medium out of the tree of folders.
func Unmount(path string) error { return syscall.Unmount(path, 0) }

// Processor is the time that this process had of the processors so far.
func Processor() time.Duration {
	var u syscall.Rusage
	if syscall.Getrusage(syscall.RUSAGE_SELF, &u) != nil {
		return 0
	}
	return time.Duration(u.Utime.Nano() + u.Stime.Nano())
}
