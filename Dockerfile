# Coaster as a server: web and worker, or one that draws for them, from one image and as somebody who may do nothing else.
FROM python:3.11-slim-bookworm AS made
WORKDIR /made
COPY requirements-cluster.lock ./
ENV PIP_PYTHON=/opt/coaster/bin/python PIP_NO_CACHE_DIR=1 PIP_DISABLE_PIP_VERSION_CHECK=1
RUN python -m venv --without-pip /opt/coaster \
 && pip install --require-hashes -r requirements-cluster.lock
COPY pyproject.toml setup.py README.md LICENSE ./
COPY docs ./docs
COPY src ./src
RUN pip install --no-deps .

FROM python:3.11-slim-bookworm
# What drives graphics cards comes along with the two libraries, is larger than the rest of the system, and does nothing here.
RUN apt-get update -q \
 && apt-get install -y -q --no-install-recommends libegl1 libgl1 \
 && rm -rf /var/lib/apt/lists/* /usr/lib/*/dri /usr/lib/*/libLLVM* /usr/lib/*/libz3* \
 && useradd --uid 10001 --create-home coaster \
 && install -d -o coaster -g coaster /data
COPY --from=made /opt/coaster /opt/coaster
ENV PATH=/opt/coaster/bin:$PATH COASTER_DATA=/data PYTHONUNBUFFERED=1
USER coaster
VOLUME /data
EXPOSE 8000
HEALTHCHECK --interval=30s --timeout=5s --start-period=40s \
  CMD ["python", "-c", "import urllib.request as r; r.urlopen('http://127.0.0.1:8000/health', timeout=4)"]
CMD ["coaster", "serve", "--port", "8000", "--host", "0.0.0.0"]
