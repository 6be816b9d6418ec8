# Lucid Bench for a server: the page built, Python's packages installed, the circuit engine compiled.
# Build:  podman build -t lucid-bench .
# Run:    podman run -p 8080:8080 -v lucid:/data -e LUCID_HOSTS=bench.example lucid-bench
# LUCID_HOSTS is the name it is reached by. It is reached from elsewhere, so people sign in; give an account:
#         podman run -it -v lucid:/data lucid-bench lucid account NAME --owner --data /data

FROM docker.io/library/node:20-bookworm-slim AS page
WORKDIR /build
COPY web/package.json web/package-lock.json web/
RUN cd web && npx --yes npm@11 ci --no-audit --no-fund
COPY web web
RUN cd web && npm run build

FROM docker.io/library/python:3.11-slim-bookworm AS package
WORKDIR /build
COPY requirements requirements
RUN python -m venv /opt/lucid && /opt/lucid/bin/python -m pip install --disable-pip-version-check -r requirements/run.txt
COPY pyproject.toml hatch_build.py README.md ./
COPY lucidbench lucidbench
COPY examples examples
COPY --from=page /build/web/dist web/dist
RUN /opt/lucid/bin/python -m pip install --disable-pip-version-check --no-deps .

FROM docker.io/library/python:3.11-slim-bookworm
COPY --from=package /opt/lucid /opt/lucid
RUN useradd --system --create-home --home-dir /home/lucid lucid && mkdir /data /cache && chown lucid /data /cache
USER lucid
ENV PATH=/opt/lucid/bin:$PATH LUCID_CACHE=/cache OPENBLAS_NUM_THREADS=1
RUN python -m lucidbench.core.analyses.warm
VOLUME /data
EXPOSE 8080
HEALTHCHECK --interval=30s --timeout=5s --start-period=60s \
    CMD ["python", "-c", "import urllib.request; urllib.request.urlopen('http://127.0.0.1:8080/api/me', timeout=4)"]
CMD ["lucid", "serve", "--host", "0.0.0.0", "--port", "8080", "--data", "/data"]
