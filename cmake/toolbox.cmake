# What every target shares: warnings, sanitizers, compiler cache, linker, and the rule about who may include whom.
find_program(CCACHE ccache)
if(CCACHE)
  set(CMAKE_CXX_COMPILER_LAUNCHER ${CCACHE})
endif()
find_program(MOLD mold)
if(MOLD)
  add_link_options(-fuse-ld=mold)
endif()
add_compile_options(-Wall -Wextra -Wpedantic -Wconversion -Werror -ffp-contract=off)
# g++ 12 warns of copies in std::string that cannot happen (its bug 105329).
add_compile_options(-Wno-stringop-overflow -Wno-restrict -Wno-array-bounds)
if(FEXEL_FUZZ)
  add_compile_options(-w -g1 -fsanitize=fuzzer-no-link,address,undefined -fno-sanitize-recover=all)
  add_link_options(-fsanitize=address,undefined)
endif()
if(FEXEL_SANITIZE)
  # Instrumented code makes g++ 12 warn of the standard library; warnings are the plain build's business.
  add_compile_options(-w -fsanitize=address,undefined -fno-sanitize-recover=all -fno-omit-frame-pointer)
  add_link_options(-fsanitize=address,undefined)
endif()

# fexel_layer(NAME SOURCES ... USES ...): a library from the folder it stands in. Its headers are reached as "NAME/…", and
# only by targets that link it: the include folder holds a link to this folder and to nothing else. The lowest layer's
# precompiled header serves all.
function(fexel_layer name)
  cmake_parse_arguments(arg "" "" "SOURCES;USES" ${ARGN})
  add_library(fexel_${name} STATIC ${arg_SOURCES})
  set(door ${CMAKE_BINARY_DIR}/include/${name})
  file(MAKE_DIRECTORY ${door})
  file(CREATE_LINK ${CMAKE_CURRENT_SOURCE_DIR} ${door}/${name} SYMBOLIC)
  target_include_directories(fexel_${name} PUBLIC ${door})
  target_link_libraries(fexel_${name} PUBLIC ${arg_USES})
  if(name STREQUAL "base")
    target_precompile_headers(fexel_base PRIVATE <algorithm> <array> <cmath> <cstdint> <filesystem> <functional> <memory>
                              <optional> <string> <variant> <vector>)
  else()
    target_precompile_headers(fexel_${name} REUSE_FROM fexel_base)
  endif()
endfunction()
