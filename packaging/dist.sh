#!/bin/sh
# Builds what is handed out, into dist/: static programs for three systems, packages for
# Debian, lists of what is within (CycloneDX), and checksums. `make dist` calls it.
set -e
VERSION=$(sed -n 's/^const Version = "\(.*\)"/\1/p' internal/server/server.go)
export VERSION
rm -rf dist
mkdir dist
for system in linux/amd64 linux/arm64 windows/amd64; do
	os=${system%/*} arch=${system#*/} end=
	[ "$os" = windows ] && end=.exe
	echo "$os, $arch"
	CGO_ENABLED=0 GOOS=$os GOARCH=$arch go build -trimpath -ldflags '-s -w' -o "dist/readyrail_${VERSION}_${os}_$arch$end" ./cmd/readyrail
done
for arch in amd64 arm64; do
	ARCH=$arch go run github.com/goreleaser/nfpm/v2/cmd/nfpm@v2.43.4 package --config packaging/nfpm.yaml --packager deb --target dist
done
go run github.com/CycloneDX/cyclonedx-gomod/cmd/cyclonedx-gomod@v1.9.0 app -json -main cmd/readyrail -output "dist/readyrail_${VERSION}_server.cdx.json" .
# The list of the pages takes a version, which their package has none of by itself.
pages=$(mktemp -d)
trap 'rm -rf "$pages"' EXIT
cp web/package-lock.json "$pages"
sed "0,/\"private\"/s//\"version\": \"$VERSION\", &/" web/package.json >"$pages/package.json"
(cd "$pages" && npm sbom --package-lock-only --sbom-format cyclonedx --omit dev) >"dist/readyrail_${VERSION}_pages.cdx.json"
(cd dist && sha256sum -- * >SHA256SUMS)
