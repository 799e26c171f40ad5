# Estrel in one container: its processes under a supervisor, its database on a socket inside, all it keeps in /var/lib/estrel.
#
#   podman build -t estrel .
#   podman run -d --name estrel -p 127.0.0.1:4270:4270 -p 127.0.0.1:4271:4271 -v estrel:/var/lib/estrel \
#     -e ESTREL_PUBLIC_URL=https://estrel.example -e ESTREL_TRUSTED_PROXIES=10.0.0.0/8 estrel
FROM debian:bookworm-slim

ENV LANG=C.UTF-8 \
    ESTREL_VAR=/var/lib/estrel \
    ESTREL_BIND=0.0.0.0 \
    ESTREL_DEMO=off

WORKDIR /opt/estrel
COPY . .
RUN bin/install \
 && rm -rf web/node_modules var /var/lib/apt/lists/* \
 && useradd --system --home-dir /var/lib/estrel --shell /usr/sbin/nologin estrel \
 && install -d -m 0700 -o estrel -g estrel /var/lib/estrel

USER estrel
VOLUME /var/lib/estrel
EXPOSE 4270 4271
STOPSIGNAL SIGTERM
HEALTHCHECK --interval=30s --timeout=5s --start-period=300s \
  CMD ruby -rnet/http -e 'exit Net::HTTP.get_response(URI("http://127.0.0.1:4270/health/live")).is_a?(Net::HTTPOK)'
CMD ["sh", "-c", "bin/estrel setup && exec bin/run"]
