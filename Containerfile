# Celandine in a container: Debian with the package that make release makes (release/out). PostgreSQL is elsewhere; say where with CELANDINE_DATABASE.
#
#   make release && podman build -t celandine .
#   podman run -p 127.0.0.1:8460:8460 -e CELANDINE_DATABASE=postgres://… celandine
FROM debian:12-slim
ARG TARGETARCH=amd64
COPY release/out/celandine_*_${TARGETARCH}.deb /tmp/
RUN apt-get update && apt-get install -y --no-install-recommends ca-certificates postgresql-client /tmp/celandine_*_${TARGETARCH}.deb && rm -rf /var/lib/apt/lists/* /tmp/*.deb
USER celandine
EXPOSE 8460
# The container's own address is the boundary here; what is published of it is the -p above.
CMD ["celandine", "serve", "--listen", "0.0.0.0:8460"]
