# make demo   the whole job on the demo machine, into mooring-demo/
# make test   style, types, import contracts and all tests
# make lint   the first three of these alone, and that of the C++ code
# make sanitize  the tests of the compiled core under the address and undefined sanitizers
# make tidy   what else a linter says of the C++ code
# make wheel  a file to install where nothing can be compiled, into dist/
# make versions  the wheel in an environment of each Python from 3.11 on that is there
# make lock   pin the newest versions of everything into requirements.lock
#
# Needs Python 3.11 or newer, and apt where the machine lacks Python's venv module or headers, or a
# C++ compiler.

PYTHON ?= $(shell command -v python3.11 || command -v python3)
VENV := .venv
BIN := $(VENV)/bin
READY := $(VENV)/.ready

# The page is tested in Debian's browser, the bridge with its Mosquitto and Node.js.
BROWSER := $(VENV)/.browser
PARTNERS := $(VENV)/.partners

# The compiled core is built anew when its sources change.
NATIVE := $(VENV)/.native
SOURCES := CMakeLists.txt $(shell find native -name "*.cpp" -o -name "*.h")

.PHONY: demo test versions lint tidy lock bench sanitize wheel clean

demo: $(NATIVE)
	$(BIN)/mooring demo -o mooring-demo

test: lint $(BROWSER) $(PARTNERS) $(NATIVE)
	$(BIN)/python -m tests

lint: $(NATIVE)
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	$(BIN)/lint-imports --no-logo
	$(BIN)/clang-format --dry-run --Werror $(filter native/%,$(SOURCES))

tidy: $(NATIVE)
	$(BIN)/cmake -S . -B build/tidy -G Ninja -DCMAKE_EXPORT_COMPILE_COMMANDS=ON \
		-DCMAKE_MAKE_PROGRAM=$(abspath $(BIN)/ninja) \
		-Dnanobind_DIR=$$($(BIN)/python -m nanobind --cmake_dir) \
		-DPython_EXECUTABLE=$(abspath $(BIN)/python) >/dev/null
	echo $(filter native/%.cpp,$(filter-out native/bindings/%,$(SOURCES))) | \
		xargs -n 1 -P $$(nproc) $(BIN)/clang-tidy --quiet -p build/tidy

bench: $(NATIVE)
	$(BIN)/python -m benchmarks

$(READY): requirements.lock pyproject.toml
	@$(PYTHON) -c 'import sys; sys.exit(sys.version_info < (3, 11))' || \
		{ echo "Mooring needs Python 3.11 or newer; call make PYTHON=..."; exit 1; }
	$(PYTHON) -m venv $(VENV) || { apt-get update && apt-get install -y python3-venv && \
		$(PYTHON) -m venv --clear $(VENV); }
	$(BIN)/python -m pip install --quiet --disable-pip-version-check -r requirements.lock
	@# Open CASCADE's binding is linked against these, which a bare machine may lack.
	@$(BIN)/python -c 'import OCP.STEPCAFControl' 2>/dev/null || \
		{ apt-get update && apt-get install -y libgl1 libx11-6 libexpat1; }
	touch $(READY)

$(NATIVE): $(READY) $(SOURCES)
	@command -v c++ >/dev/null || { apt-get update && apt-get install -y g++; }
	@$(BIN)/python -c 'import pathlib, sysconfig as s; \
		raise SystemExit(not pathlib.Path(s.get_path("include"), "Python.h").exists())' || \
		{ apt-get update && apt-get install -y python3-dev; }
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation -e .
	touch $(NATIVE)

# The tests of the compiled core, with every wrong access to memory and all undefined behaviour
# found. Site packages are named, as the editable installation must not come first.
CORE_TESTS := test_tree test_motion test_loops test_mechanisms test_inverse test_overlaps test_mass \
	test_floating test_contact test_simulation test_sensors test_solvers \
	test_benchmark_machines test_hierarchy test_drawing test_machinery test_honest \
	test_devices test_environments \
	test_pile.Poured.test_runs_are_the_same_bytes_with_one_core_or_more

# Calls of the core with wrong arguments, see `fuzz/bindings.py`.
ATTEMPTS := 3000

sanitize: $(NATIVE)
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-deps --upgrade \
		--no-build-isolation --target build/sanitized -C cmake.define.MOORING_SANITIZE=ON \
		-C build-dir=build/sanitizing .
	ASAN_OPTIONS=detect_leaks=0 UBSAN_OPTIONS=print_stacktrace=1 \
		LD_PRELOAD="$$(c++ -print-file-name=libasan.so) $$(c++ -print-file-name=libubsan.so)" \
		PYTHONPATH="build/sanitized:$$($(BIN)/python -c 'import site; print(site.getsitepackages()[0])')" \
		sh -c '$(BIN)/python -S -m tests $(CORE_TESTS) && \
		$(BIN)/python -S -m fuzz --targets bindings --count $(ATTEMPTS)'

# One wheel serves 3.12 and all that come after it; 3.11 has its own.
versions:
	for minor in 11 12 13; do \
		python=$$(command -v python3.$$minor) && $$python -c '' 2>/dev/null || continue; \
		rm -rf build/version-$$minor && $$python -m venv build/version-$$minor && \
		build/version-$$minor/bin/pip install --quiet --disable-pip-version-check '.[all]' && \
		build/version-$$minor/bin/mooring demo -o build/version-$$minor/demo --quiet >/dev/null && \
		echo "Python 3.$$minor: the whole demo" || exit 1; \
	done

wheel: $(NATIVE)
	rm -rf build/wheels
	$(BIN)/python -m pip wheel --quiet --disable-pip-version-check --no-deps --no-build-isolation \
		--wheel-dir build/wheels .
	PATH="$(BIN):$$PATH" $(BIN)/auditwheel repair --wheel-dir dist build/wheels/*.whl

$(BROWSER): $(READY)
	command -v chromedriver >/dev/null && command -v chromium >/dev/null || \
		{ apt-get update && apt-get install -y chromium chromium-driver; }
	touch $(BROWSER)

$(PARTNERS): $(READY)
	PATH="$$PATH:/usr/sbin"; command -v mosquitto >/dev/null && command -v openssl >/dev/null || \
		{ apt-get update && apt-get install -y mosquitto openssl; }
	command -v node >/dev/null && command -v npm >/dev/null || \
		{ apt-get update && apt-get install -y nodejs npm; }
	touch $(PARTNERS)

lock: $(READY)
	$(BIN)/pip-compile --quiet --upgrade --extra dev --no-strip-extras --allow-unsafe --no-annotate \
		--no-header --no-emit-index-url --no-emit-trusted-host --no-emit-find-links \
		--no-emit-options --generate-hashes -o requirements.lock pyproject.toml
	sed -i '/^mooring-robotics/d;/^ *#/d;/^$$/d' requirements.lock
	$(BIN)/python -m releasing.licences docs/licences.md

clean:
	rm -rf $(VENV) build dist mooring-demo
