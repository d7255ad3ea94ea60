#!/usr/bin/env python3
"""The body of a pack, written from the one declaration of its tables. Usage: docs/pack_grammar.py [PAGE]: prints it, or
puts it into a page between the lines `<!-- body -->` and `<!-- end -->`."""
import glob
import os
import re
import sys
import textwrap

ROOT = os.path.join(os.path.dirname(os.path.abspath(__file__)), "..")
HEADERS = glob.glob(os.path.join(ROOT, "include/mobrin/core/*.hpp")) + glob.glob(os.path.join(ROOT, "src/core/*/*.hpp"))
NUMBERS = {"bool": "bool", "std::uint8_t": "u8", "std::uint16_t": "u16", "std::uint32_t": "u32", "std::uint64_t": "u64",
           "std::int32_t": "i32", "std::int64_t": "i64", "float": "f32", "double": "f64", "std::size_t": "u64"}


def read(path):
    with open(path, encoding="utf-8") as stream:
        return re.sub(r"//[^\n]*", "", stream.read())


def members():
    """struct -> member -> its type."""
    found = {}
    for path in HEADERS:
        text = read(path)
        for match in re.finditer(r"\bstruct (\w+)(?: : \w+)? \{", text):
            depth, at = 1, match.end()
            while depth:
                depth += {"{": 1, "}": -1}.get(text[at], 0)
                at += 1
            own = found.setdefault(match.group(1), {})
            body = re.sub(r"(?<=\w)\{[^{}]*\}", "", text[match.end():at - 1])  # initial values
            while "{" in body:
                body = re.sub(r"\{[^{}]*\}", ";", body)
            for declared in re.finditer(r"^\s*((?:std::)?[\w:]+(?:<[^;=]*>)?) ([\w\s,=.'+:-]+?);", body, re.M):
                for name in declared.group(2).split(","):
                    own[name.split("=")[0].strip()] = declared.group(1)
    return found


def choices():
    """Alias of a variant -> its alternatives; enumeration -> its words."""
    variants, words = {}, {}
    for path in HEADERS:
        text = read(path)
        for name, inner in re.findall(r"using (\w+) =\s*std::variant<(.*?)>;", text, re.S):
            variants[name] = inner
        for name, inner in re.findall(r"enum class (\w+)(?: : [\w:]+)? \{([^}#]*)\}", text):
            words[name] = [word.split("=")[0].strip() for word in inner.split(",") if word.strip()]
    return variants, words


MEMBERS = members()
VARIANTS, WORDS = choices()


def alternatives(kind):
    inner = VARIANTS.get(kind) or re.match(r"std::variant<(.*)>$", kind).group(1)
    return " / ".join(plain(each) if "vector" not in each else "list " + plain(each) for each in inner.split(","))


def type_of(struct, path):
    for part in path.split("."):
        struct = MEMBERS.get(struct, {}).get(part, "?")
    return struct


def arguments(text, at):
    """What stands in the brackets that open at `at`, and where they close."""
    depth, start, out = 0, at + 1, []
    while True:
        if text[at] in "([{<" and not (text[at] == "<" and text[at + 1] in " ="):
            depth += 1
        elif text[at] in ")]}" or (text[at] == ">" and text[at - 1] != "-" and text[at + 1] not in " ="):
            depth -= 1
            if depth == 0:
                return out + [text[start:at]], at + 1
        elif text[at] == "," and depth == 1:
            out.append(text[start:at])
            start = at + 1
        at += 1


def plain(name):
    name = name.strip()
    element = re.match(r"(?:std::)?(?:optional|vector)<(.*)>$", name)
    if element:
        return plain(element.group(1))
    pair = re.match(r"std::pair<(.*)>$", name)
    if pair:
        return "pair of f64" if "double" in pair.group(1) else "pair of text"
    name = re.sub(r"^Range<.*>$", "range", name)
    return {"ExprRef": "range", "std::string": "text", "Text": "text", "Place": "place"}.get(name, NUMBERS.get(name, name))


def rows(struct, body, prefix="v."):
    out = []
    at = 0
    call = re.compile(r"\b(a\.(number|size|word|text|name|words|place|list|maybe|choice)|fields|all|numbers|names)\(|for \(\w+ & ?\w+ : |for \((\w+)& (\w+) : v\.(\w+)\) \{|if constexpr \(A::kWithArt\)")
    while True:
        match = call.search(body, at)
        if not match:
            return out
        if match.group(3):
            end = body.index("}", match.end())
            inner = rows(match.group(3), body[match.end():end], match.group(4) + ".")
            out.append(f"three times ({', '.join(inner)})")
            at = end
            continue
        if not body[match.start():match.end()].endswith("("):
            at = match.end()
            continue
        what = match.group(2) or match.group(1)
        args, at = arguments(body, match.end() - 1)
        target = (args[1] if what == "fields" else args[0]).strip()
        if not re.match(r"(v|m|layer)\.", target) and not target.startswith(prefix):
            continue
        path = target.split(".", 1)[1]
        kind = type_of(struct, path)
        label = path.replace(".", " ")
        if kind == "?":
            raise SystemExit(f"{struct}: nothing is known of the type of {path}")
        if what in ("number", "size"):
            out.append(f"{NUMBERS.get(kind, kind)} {label}")
        elif what == "word":
            words = WORDS.get(kind)
            out.append(f"word {label}" + (f" ({', '.join(words)})" if words else f" (an {kind}, in its order)"))
        elif what in ("text", "name", "words"):
            out.append(f"{'text' if what == 'text' else 'name'} {label}" + (" place" if kind == "Text" else ""))
        elif what in ("list", "all", "numbers", "names"):
            element = "name" if what == "names" or (len(args) > 1 and "a.name(each)" in args[1]) else plain(kind)
            if "std::vector<std::vector" in kind:
                element = "list " + element
            if len(args) > 1 and "Text& each" in args[1]:
                element = f"({element} place)"
            out.append(f"list {element} {label}")
        elif what == "maybe":
            out.append(f"optional {plain(kind)} {label}")
        elif what == "choice":
            out.append(f"variant {label} ({alternatives(kind)})")
        else:
            out.append(f"{plain(kind)} {label}")


def grammar():
    text = read(os.path.join(ROOT, "src/core/machine/tables.hpp"))
    lines = ["Ticks = i64", f"FieldValue = variant ({alternatives('FieldValue')})",
             "TrackKey = Ticks time, f64 value, f64 in, f64 out"]
    for match in re.finditer(r"void fields\(A& a, ([\w:<>, ]+)& (v|m)\) \{\n(.*?)\n\}", text, re.S):
        struct, variable, body = match.groups()
        if "<" in struct or struct in ("ExprRef", "Place", "FieldValue", "Ticks"):
            continue
        parts = rows(struct, body, variable + ".")
        name = "body" if struct == "MachineData" else struct
        lines.append(f"{name} = " + ", ".join(parts))
    return lines


def text():
    return "\n".join("\n".join(textwrap.wrap(line, 140, subsequent_indent="    ")) for line in grammar())


def with_body(page):
    begin, end = "<!-- body -->\n", "<!-- end -->"
    head, rest = page.split(begin)
    return head + begin + "```\n" + text() + "\n```\n" + end + rest.split(end, 1)[1]


if __name__ == "__main__":
    if len(sys.argv) < 2:
        print(text())
    else:
        with open(sys.argv[1], encoding="utf-8") as stream:
            whole = stream.read()
        whole = with_body(whole)
        with open(sys.argv[1], "w", encoding="utf-8") as stream:
            stream.write(whole)
