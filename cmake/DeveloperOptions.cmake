# SPDX-License-Identifier: GPL-3.0-or-later
# Warnings, sanitizers and the compiler cache, on one interface target that all of ours link.
option(TROMB_WERROR "Treat warnings as errors" OFF)
set(TROMB_SANITIZE "" CACHE STRING "Sanitizers, as in -fsanitize=: address,undefined or thread")

find_program(CCACHE_PROGRAM ccache)
if(CCACHE_PROGRAM)
  set(CMAKE_CXX_COMPILER_LAUNCHER "${CCACHE_PROGRAM}")
endif()

find_program(LLD_PROGRAM ld.lld)
if(LLD_PROGRAM) # sixty programs are linked; the usual linker takes several times as long
  add_link_options(-fuse-ld=lld)
endif()

add_library(tromb_options INTERFACE)
target_compile_options(tromb_options INTERFACE
  -Wall -Wextra -Wpedantic -Wshadow -Wconversion $<$<BOOL:${TROMB_WERROR}>:-Werror>
  # GCC 12 sees an overlap inside its own std::string where there is none (its bug 105651, mended in 13).
  $<$<AND:$<CXX_COMPILER_ID:GNU>,$<VERSION_LESS:$<CXX_COMPILER_VERSION>,13>>:-Wno-restrict>)
if(CMAKE_UNITY_BUILD AND CMAKE_CXX_COMPILER_ID STREQUAL GNU)
  # It takes a file that is joined with others for a header, whose types others would see.
  target_compile_options(tromb_options INTERFACE -Wno-subobject-linkage)
endif()
if(TROMB_SANITIZE)
  target_compile_options(tromb_options INTERFACE -fsanitize=${TROMB_SANITIZE} -fno-omit-frame-pointer -fno-sanitize-recover=all)
  target_link_options(tromb_options INTERFACE -fsanitize=${TROMB_SANITIZE})
endif()

# For what is neither shipped nor reckons with pixels: half the time of the compiler.
if(TROMB_SANITIZE AND CMAKE_CXX_COMPILER_ID MATCHES Clang)
  set(tromb_built_sooner -O0)
elseif(TROMB_SANITIZE OR TROMB_WERROR)
  set(tromb_built_sooner -O1)
endif()
