package store

import (
	"context"
	"fmt"
	"slices"

	"github.com/Masterminds/semver/v3"
)

// Latest stands for the version that the catalogue shows.
const Latest = "latest"

// Version returns the version of a template that wanted names: an exact one,
// the highest in a SemVer range, or Latest.
func (s *Store) Version(ctx context.Context, team, name, wanted string) (Version, error) {
	template, err := s.Template(ctx, team, name)
	if err != nil {
		return Version{}, err
	}
	all, err := s.Versions(ctx, template)
	if err != nil {
		return Version{}, err
	}
	if wanted == Latest || wanted == "" {
		wanted = template.Version
	}
	for _, v := range all {
		if v.Version == wanted {
			v.Template = template
			return v, nil
		}
	}
	within, err := semver.NewConstraint(wanted)
	if err != nil {
		return Version{}, fmt.Errorf("the version %q of %s/%s %w; name a SemVer version or range, such as 1.2.0 or ^1.2", wanted, team, name, ErrNotFound)
	}
	for _, v := range all {
		if parsed, err := semver.StrictNewVersion(v.Version); err == nil && within.Check(parsed) {
			v.Template = template
			return v, nil
		}
	}
	return Version{}, fmt.Errorf("a version %s of %s/%s %w; the highest is %s", wanted, team, name, ErrNotFound, template.Version)
}

// sortVersions puts the highest first.
func sortVersions(versions []Version) {
	slices.SortFunc(versions, func(a, b Version) int {
		x, errX := semver.StrictNewVersion(a.Version)
		y, errY := semver.StrictNewVersion(b.Version)
		if errX != nil || errY != nil {
			return 0
		}
		return y.Compare(x)
	})
}
