// Package machine is what is asked of the operating system in its own way: room on
// disks, locks of files, and the time of processors.
package machine

import (
	"errors"
	"os"
	"path/filepath"
	"strings"
	"time"

	"golang.org/x/sys/windows"
)

// Free is how many bytes somebody without special rights can write at a path.
func Free(path string) (int64, error) {
	at, err := windows.UTF16PtrFromString(path)
	if err != nil {
		return 0, err
	}
	var free uint64
	err = windows.GetDiskFreeSpaceEx(at, &free, nil, nil)
	return int64(free), err
}

// SameDisk tells whether two paths that are there lie on one file system.
func SameDisk(a, b string) bool {
	volume := func(path string) string {
		whole, _ := filepath.Abs(path)
		return filepath.VolumeName(whole)
	}
	return strings.EqualFold(volume(a), volume(b))
}

// Full tells whether an error is that of a disk without room.
func Full(err error) bool {
	return errors.Is(err, windows.ERROR_DISK_FULL) || errors.Is(err, windows.ERROR_HANDLE_DISK_FULL)
}

// Reserve has room on the disk for so many bytes of a file.
func Reserve(f *os.File, size int64) error { return f.Truncate(size) }

// Lock takes a file for this process alone, as long as it is open; an error where
// another has it.
func Lock(f *os.File) error {
	return windows.LockFileEx(windows.Handle(f.Fd()), windows.LOCKFILE_EXCLUSIVE_LOCK|windows.LOCKFILE_FAIL_IMMEDIATELY, 0, 1, 0,
		&windows.Overlapped{})
}

// SyncFolder has on the medium which files a folder has; NTFS keeps that by itself.
func SyncFolder(string) error { return nil }

// Flush has what any program wrote on its medium; each file was synced by who wrote it.
func Flush() {}

// Unmount takes a medium out of the tree of folders.
func Unmount(path string) error {
	return windows.DeleteVolumeMountPoint(windows.StringToUTF16Ptr(path))
}

// Processor is the time that this process had of the processors so far.
func Processor() time.Duration {
	var born, died, kernel, user windows.Filetime
	if windows.GetProcessTimes(windows.CurrentProcess(), &born, &died, &kernel, &user) != nil {
		return 0
	}
	spent := func(t windows.Filetime) time.Duration {
		return time.Duration(int64(t.HighDateTime)<<32|int64(t.LowDateTime)) * 100
	}
	return spent(kernel) + spent(user)
}
