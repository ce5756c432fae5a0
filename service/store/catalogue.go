package store

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/Masterminds/semver/v3"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"ironcast/core/manifest"
)

// Template is an entry of the catalogue, as its shown version describes it.
type Template struct {
	ID        uint64
	Team      string
	Name      string
	Title     string
	Summary   string
	Licence   string
	Labels    []string `gorm:"serializer:json"`
	Version   string   // the highest release, or the highest pre-release where there is none
	Versions  int
	Words     string
	CreatedAt time.Time
	UpdatedAt time.Time
}

// Version is one published version of a template. It never changes.
type Version struct {
	ID          uint64
	TemplateID  uint64
	Template    Template
	Version     string
	Digest      string
	Files       int
	Slots       int
	PublishedAt time.Time
	PublishedBy string
}

// Search asks for part of the catalogue.
type Search struct {
	Words  []string // all must occur
	Label  string   // "" for any
	Offset int
	Limit  int
}

// Find returns the templates that match, those first whose names do, and how
// many there are in all.
func (s *Store) Find(ctx context.Context, search Search) ([]Template, int, error) {
	db, err := s.db(ctx)
	if err != nil {
		return nil, 0, err
	}
	query := db.Model(&Template{})
	for _, word := range search.Words {
		query = query.Where("words LIKE ?", "%"+escapeLike(strings.ToLower(word))+"%")
	}
	if search.Label != "" {
		query = query.Where("JSON_CONTAINS(labels, JSON_QUOTE(?))", search.Label)
	}
	query = query.Session(&gorm.Session{})
	var total int64
	if err := query.Count(&total).Error; err != nil {
		return nil, 0, available(err)
	}
	if len(search.Words) > 0 {
		query = query.Order(clause.Expr{SQL: "name LIKE ? DESC", Vars: []any{"%" + escapeLike(strings.ToLower(search.Words[0])) + "%"}})
	}
	var found []Template
	err = query.Order("team, name").Offset(search.Offset).Limit(search.Limit).Find(&found).Error
	return found, int(total), available(err)
}

func escapeLike(text string) string {
	return strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`).Replace(text)
}

// Template returns one template.
func (s *Store) Template(ctx context.Context, team, name string) (Template, error) {
	db, err := s.db(ctx)
	if err != nil {
		return Template{}, err
	}
	var found Template
	err = db.Where("team = ? AND name = ?", team, name).Take(&found).Error
	return found, missing(err, fmt.Sprintf("the template %s/%s", team, name))
}

// Versions returns a template's versions, the highest first (SemVer 2.0.0
// precedence).
func (s *Store) Versions(ctx context.Context, template Template) ([]Version, error) {
	db, err := s.db(ctx)
	if err != nil {
		return nil, err
	}
	var found []Version
	if err := db.Where("template_id = ?", template.ID).Find(&found).Error; err != nil {
		return nil, available(err)
	}
	sortVersions(found)
	return found, nil
}

// Publication is a version to be published, with its packed bundle.
type Publication struct {
	Manifest *manifest.Manifest
	Digest   string
	Size     int64
	Files    int
	Slots    int
	By       string
	Chunks   func(each func(position int, data []byte) error) error
}

// Publish adds a version to the catalogue, all of it or nothing. Publishing the
// same contents again changes nothing and is no error; other contents under a
// version that is there give ErrConflict. It tells whether anything was added.
func (s *Store) Publish(ctx context.Context, p Publication) (Version, bool, error) {
	db, err := s.db(ctx)
	if err != nil {
		return Version{}, false, err
	}
	var version Version
	added := false
	err = db.Transaction(func(tx *gorm.DB) error {
		template, err := lockTemplate(tx, p.Manifest)
		if err != nil {
			return err
		}
		err = tx.Where("template_id = ? AND version = ?", template.ID, p.Manifest.Version).Take(&version).Error
		if err == nil {
			version.Template = template
			return sameContents(version, p)
		}
		if !errors.Is(err, gorm.ErrRecordNotFound) {
			return err
		}
		if err := saveBundle(tx, p); err != nil {
			return err
		}
		added = true
		version = Version{
			TemplateID: template.ID, Version: p.Manifest.Version, Digest: p.Digest,
			Files: p.Files, Slots: p.Slots, PublishedAt: tx.NowFunc(), PublishedBy: p.By,
		}
		if err := tx.Omit("Template").Create(&version).Error; err != nil {
			return err
		}
		version.Template, err = describe(tx, template, p.Manifest)
		return err
	})
	return version, added, available(err)
}

func sameContents(version Version, p Publication) error {
	if version.Digest == p.Digest {
		return nil
	}
	return fmt.Errorf("%s/%s %s %w with other contents; raise the version in %s",
		p.Manifest.Team, p.Manifest.Template, p.Manifest.Version, ErrConflict, manifest.FileName)
}

// lockTemplate returns the template's row, made where there is none, held until
// the transaction ends, so that publications of one template take turns.
func lockTemplate(tx *gorm.DB, m *manifest.Manifest) (Template, error) {
	fresh := Template{Team: m.Team, Name: m.Template, Labels: []string{}, UpdatedAt: tx.NowFunc()}
	if err := tx.Clauses(clause.OnConflict{DoNothing: true}).Create(&fresh).Error; err != nil {
		return Template{}, err
	}
	var template Template
	err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Where("team = ? AND name = ?", m.Team, m.Template).Take(&template).Error
	return template, err
}

// describe counts the version just added, and shows the template as that
// version describes it where it is the highest.
func describe(tx *gorm.DB, template Template, m *manifest.Manifest) (Template, error) {
	var all []Version
	if err := tx.Where("template_id = ?", template.ID).Find(&all).Error; err != nil {
		return template, err
	}
	template.Versions = len(all)
	if template.Version = shown(all); template.Version == m.Version {
		template.Title, template.Summary, template.Licence = m.Title, m.Summary, m.Licence
		template.Labels = append([]string{}, m.Labels...)
		if template.Title == "" {
			template.Title = m.Template
		}
		template.Words = strings.ToLower(strings.Join(append([]string{m.Team, m.Template, m.Title, m.Summary}, m.Labels...), " "))
	}
	return template, tx.Save(&template).Error
}

// shown returns the highest release, or the highest version where there is none.
func shown(all []Version) string {
	sortVersions(all)
	for _, v := range all {
		if parsed, err := semver.StrictNewVersion(v.Version); err == nil && parsed.Prerelease() == "" {
			return v.Version
		}
	}
	return all[0].Version
}
