# mobrin_module(NAME SOURCES...): one static library `mobrin_NAME`, known as `mobrin::NAME` here and after find_package.
function(mobrin_module name)
  add_library(mobrin_${name} STATIC ${ARGN})
  add_library(mobrin::${name} ALIAS mobrin_${name})
  set_target_properties(mobrin_${name} PROPERTIES EXPORT_NAME ${name})
  target_compile_features(mobrin_${name} PUBLIC cxx_std_20)
  target_include_directories(mobrin_${name} PUBLIC $<BUILD_INTERFACE:${PROJECT_SOURCE_DIR}/include>
                                                   $<INSTALL_INTERFACE:${CMAKE_INSTALL_INCLUDEDIR}>)
  mobrin_options(mobrin_${name})
  mobrin_unity(mobrin_${name})
  if(MOBRIN_INSTALL)
    install(TARGETS mobrin_${name} EXPORT mobrin-${name}-targets ARCHIVE DESTINATION ${CMAKE_INSTALL_LIBDIR})
    install(EXPORT mobrin-${name}-targets NAMESPACE mobrin:: DESTINATION ${CMAKE_INSTALL_LIBDIR}/cmake/mobrin)
  endif()
endfunction()

# Where a fast build is wished for (not of core and contact), mobrin_quick(TARGET): of what computes for long, such as
# proofs; mobrin_quicker(TARGET): of what reads, writes and answers, in three quarters of the compiler's time;
# mobrin_quickest(TARGET): of what runs once or for a short time, such as tests' own code.
function(mobrin_quick target)
  if(MOBRIN_QUICK_TOOLS)
    target_compile_options(${target} PRIVATE -O1 -g0)
  endif()
endfunction()
function(mobrin_quicker target)
  if(MOBRIN_QUICK_TOOLS)
    target_compile_options(${target} PRIVATE -Og -g0)
  endif()
endfunction()
function(mobrin_quickest target)
  if(MOBRIN_QUICK_TOOLS)
    target_compile_options(${target} PRIVATE -O0 -g0)
  endif()
endfunction()

# mobrin_unity(TARGET [ALONE...]): compiles the sources of a target together, in two parts where they are many, but for
# those that stand alone. Headers are then read once a part, which is most of the work.
function(mobrin_unity target)
  if(NOT MOBRIN_UNITY)
    return()
  endif()
  get_target_property(sources ${target} SOURCES)
  list(LENGTH sources count)
  set(batch ${count})
  if(count GREATER 10)
    math(EXPR batch "(${count} + 1) / 2")
  endif()
  set_target_properties(${target} PROPERTIES UNITY_BUILD ON UNITY_BUILD_BATCH_SIZE ${batch})
  if(ARGN)
    set_source_files_properties(${ARGN} PROPERTIES SKIP_UNITY_BUILD_INCLUSION ON)
  endif()
endfunction()

# Warnings and exact floating point for our own code.
function(mobrin_options target)
  if(MSVC)
    target_compile_options(${target} PRIVATE /W4 /permissive- /utf-8 /fp:strict)
  else()
    target_compile_options(${target} PRIVATE -Wall -Wextra -Wpedantic -Wshadow -Wold-style-cast -Wnon-virtual-dtor -Wcast-qual
                                             -ffp-contract=off)
  endif()
  if(MOBRIN_WERROR)
    set_target_properties(${target} PROPERTIES COMPILE_WARNING_AS_ERROR ON)
  endif()
  if(MOBRIN_QUICK_TOOLS AND CMAKE_CXX_COMPILER_ID STREQUAL GNU)
    # Looking for memory to use again is a tenth of gcc's work; there is some to spare: 1.3 GB for the largest instead of 1.1.
    target_compile_options(${target} PRIVATE "SHELL:--param ggc-min-expand=400" "SHELL:--param ggc-min-heapsize=400000")
  endif()
  # gcc 12 sees overlapping copies in `"text" + std::string` at -O3 (its bug 105651), and values of an empty std::optional
  # being used (its bug 80635).
  target_compile_options(${target} PRIVATE
    "$<$<AND:$<CONFIG:Release>,$<CXX_COMPILER_ID:GNU>,$<VERSION_LESS:$<CXX_COMPILER_VERSION>,13>>:-Wno-restrict;-Wno-maybe-uninitialized>")
  if(MOBRIN_ASSERTS)
    target_compile_options(${target} PRIVATE -UNDEBUG)
  endif()
  if(MOBRIN_FUZZ)
    target_compile_options(${target} PRIVATE -fsanitize=fuzzer-no-link)
  endif()
  if(MOBRIN_COVERAGE)
    target_compile_options(${target} PRIVATE -fprofile-instr-generate -fcoverage-mapping)
    target_link_options(${target} PUBLIC -fprofile-instr-generate)
  endif()
  if(MOBRIN_SANITIZE_THREADS)
    # With it gcc 12 sees the same (bug 80635).
    target_compile_options(${target} PRIVATE -fsanitize=thread "$<$<CXX_COMPILER_ID:GNU>:-Wno-maybe-uninitialized>")
    target_link_options(${target} PUBLIC -fsanitize=thread)
  endif()
  if(MOBRIN_SANITIZE)
    # Not vptr: it needs type information, which the core is built without.
    target_compile_options(${target} PRIVATE -fsanitize=address,undefined -fno-sanitize=vptr -fno-sanitize-recover=all -fno-omit-frame-pointer)
    target_link_options(${target} PUBLIC -fsanitize=address,undefined)
  endif()
endfunction()
