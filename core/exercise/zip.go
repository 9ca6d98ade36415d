package exercise

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	"maps"
	"path"
	"slices"
	"strings"
)

// MaxZip is the most that a zipped exercise may weigh.
const MaxZip = 8 << 20

// ErrLarge tells of a folder with more or larger files than an exercise may have.
var ErrLarge = errors.New("an exercise has at most 200 files of at most 1 MiB, and 8 MiB in all")

// Add takes a file into the folder, within its limits.
func (f Files) Add(name string, content []byte) error { return f.add(name, content, MaxFiles) }

func (f Files) add(name string, content []byte, most int) error {
	if len(f) >= most || len(content) > MaxFile {
		return fmt.Errorf("%s: %w", name, ErrLarge)
	}
	f[name] = content
	return nil
}

// Weight is how much the files weigh together, in bytes.
func (f Files) Weight() (sum int) {
	for _, content := range f {
		sum += len(content)
	}
	return sum
}

// pictures are the kinds of picture that an exercise may hold, by the first bytes of such a file.
var pictures = map[string]string{
	".png": "\x89PNG\r\n\x1a\n", ".jpg": "\xff\xd8\xff", ".jpeg": "\xff\xd8\xff", ".gif": "GIF8", ".webp": "RIFF",
}

// IsPicture tells whether a file of the folder is a picture that a page can show.
func IsPicture(name string) bool {
	_, known := pictures[strings.ToLower(path.Ext(name))]
	return known && strings.HasPrefix(name, "pictures/")
}

// Lies tells what is wrong with a file that is to lie in an exercise's folder: a place outside of it, a picture that is none.
func Lies(name string, content []byte) error {
	rooted := "/" + name
	switch {
	case name == "" || len(name) > 200 || strings.ContainsAny(name, "\\\x00:") || path.Clean(rooted) != rooted || strings.Contains(rooted, "/."):
		return fmt.Errorf("%q cannot be the name of a file in an exercise's folder", name)
	case strings.HasPrefix(name, "pictures/") && !IsPicture(name):
		return fmt.Errorf("%s is no picture that a page can show; take a PNG, JPEG, GIF or WebP", name)
	case IsPicture(name) && !strings.HasPrefix(string(content), pictures[strings.ToLower(path.Ext(name))]):
		return fmt.Errorf("%s is not the kind of picture that its name says", name)
	}
	return nil
}

// MaxCourse is the most that a zipped course may weigh.
const MaxCourse = 12 << 20

// maxCourseFiles is the most files that a course may have.
const maxCourseFiles = 4000

// Unzip reads an archive of an exercise folder: its files, or one folder that holds them. Archives with links, names that lead outside
// or stand twice, or that swell beyond the limits are refused.
func Unzip(archive []byte) (Files, error) { return unzip(archive, MaxFiles, MaxZip) }

// UnzipCourse reads an archive of a course's folder in the same way.
func UnzipCourse(archive []byte) (Files, error) { return unzip(archive, maxCourseFiles, MaxCourse) }

func unzip(archive []byte, most, heaviest int) (Files, error) {
	if len(archive) > heaviest {
		return nil, fmt.Errorf("this archive: %w", ErrLarge)
	}
	z, err := zip.NewReader(bytes.NewReader(archive), int64(len(archive)))
	if err != nil {
		return nil, fmt.Errorf("this is not a zip archive: %w", err)
	}
	if len(z.File) > 4*most {
		return nil, fmt.Errorf("this archive: %w", ErrLarge)
	}
	files, total := Files{}, 0
	for _, entry := range z.File {
		name, skip, err := entryName(entry)
		if err != nil {
			return nil, err
		}
		if skip {
			continue
		}
		if _, twice := files[name]; twice {
			return nil, fmt.Errorf("%s stands twice in the archive", name)
		}
		content, err := unpack(entry)
		if err != nil {
			return nil, err
		}
		if total += len(content); total > heaviest {
			return nil, fmt.Errorf("this archive: %w", ErrLarge)
		}
		if err := files.add(name, content, most); err != nil {
			return nil, err
		}
	}
	return files.withoutTop(), nil
}

// Zip writes the folder as an archive that [Unzip] reads, its files in alphabetical order: the same folder gives the same bytes.
func (f Files) Zip() ([]byte, error) {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, name := range slices.Sorted(maps.Keys(f)) {
		w, err := z.Create(name)
		if err == nil {
			_, err = w.Write(f[name])
		}
		if err != nil {
			return nil, fmt.Errorf("packing %s: %w", name, err)
		}
	}
	if err := z.Close(); err != nil {
		return nil, fmt.Errorf("packing the exercise: %w", err)
	}
	return b.Bytes(), nil
}

// entryName returns a file's path; folders and hidden files are skipped.
func entryName(entry *zip.File) (name string, skip bool, err error) {
	name = entry.Name
	if strings.ContainsAny(name, "\\\x00:") || strings.HasPrefix(name, "/") || strings.Contains("/"+name+"/", "/../") {
		return "", false, fmt.Errorf("%q leads outside the archive", name)
	}
	mode := entry.Mode()
	if mode.IsDir() {
		return "", true, nil
	}
	if !mode.IsRegular() {
		return "", false, fmt.Errorf("%s is a link or a device, not a file", name)
	}
	name = path.Clean(name)
	return name, strings.Contains("/"+name, "/.") || strings.HasPrefix(name, "__MACOSX/"), nil
}

// unpack reads no more than a file may have, whatever the archive says of its size.
func unpack(entry *zip.File) ([]byte, error) {
	r, err := entry.Open()
	if err != nil {
		return nil, fmt.Errorf("reading %s: %w", entry.Name, err)
	}
	defer r.Close()
	content, err := io.ReadAll(io.LimitReader(r, MaxFile+1))
	if err != nil {
		return nil, fmt.Errorf("reading %s: %w", entry.Name, err)
	}
	return content, nil
}

// withoutTop takes away the one folder that holds everything, if there is one.
func (f Files) withoutTop() Files {
	top := ""
	for name := range f {
		first, _, inside := strings.Cut(name, "/")
		if !inside || top != "" && first != top {
			return f
		}
		top = first
	}
	out := Files{}
	for name, content := range f {
		out[strings.TrimPrefix(name, top+"/")] = content
	}
	return out
}
