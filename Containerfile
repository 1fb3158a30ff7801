# The application in one image, built from this repository alone:
#   podman build -t jadegate . && podman run -p 8480:8480 -v jadegate:/data jadegate
FROM node:20-bookworm-slim AS web
WORKDIR /src/web
COPY web/package.json web/package-lock.json web/.npmrc ./
RUN npm ci --no-audit --no-fund
COPY docs/openapi.json /src/docs/openapi.json
COPY web/ ./
RUN mkdir -p /src/internal/webui && npm run --silent build

FROM golang:1.26-bookworm AS binary
WORKDIR /src
COPY go.mod go.sum ./
RUN go mod download
COPY cmd/ cmd/
COPY core/ core/
COPY internal/ internal/
COPY --from=web /src/internal/webui/dist/ internal/webui/dist/
RUN go build -trimpath -o /jadegate ./cmd/jadegate

FROM debian:bookworm-slim
RUN useradd --system --home-dir /data --uid 10480 jadegate && mkdir /data && chown jadegate /data
COPY --from=binary /jadegate /usr/local/bin/jadegate
USER jadegate
VOLUME /data
EXPOSE 8480
ENV JADEGATE_DATA_DIR=/data JADEGATE_ADDR=0.0.0.0:8480 JADEGATE_LOG_FORMAT=json
ENTRYPOINT ["jadegate"]
CMD ["serve"]
