module jadegate

go 1.26.0

ignore ./web/node_modules

require (
	github.com/alecthomas/kong v1.17.0
	github.com/danielgtaylor/huma/v2 v2.37.2
	github.com/go-chi/chi/v5 v5.5.0
	github.com/go-gormigrate/gormigrate/v2 v2.1.7
	github.com/goccy/go-yaml v1.19.2
	github.com/google/uuid v1.6.0
	github.com/unrolled/secure v1.17.0
	gorm.io/driver/sqlite v1.6.0
	gorm.io/gorm v1.31.2
)

require (
	github.com/jinzhu/inflection v1.0.0 // indirect
	github.com/jinzhu/now v1.1.5 // indirect
	github.com/mattn/go-sqlite3 v1.14.53 // indirect
	golang.org/x/text v0.34.0 // indirect
)
