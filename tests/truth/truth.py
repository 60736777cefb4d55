# What Python itself makes of a file: its functions and classes that no other hides, each with its line and parameters,
# without `self`; also under other names, and those that a call or a lambda makes.
# Of several definitions of a name the last one that stands in the file counts.
#
#   python3 truth.py FILE      prints: NAME <tab> LINE <tab> PARAMETERS
import ast
import sys


def parameters(node):
    of = node.args
    named = of.posonlyargs + of.args
    rest = ([of.vararg] if of.vararg else []) + of.kwonlyargs + ([of.kwarg] if of.kwarg else [])
    return [p.arg for p in named + rest if p.arg != "self"]


makers = ["namedtuple", "NamedTuple", "TypedDict", "NewType", "Enum", "IntEnum", "StrEnum", "Flag", "IntFlag"]


def assign(name, value, found, nested):
    if isinstance(value, ast.Name) and value.id in found and value.id != name and not (nested and name in found):
        found[name] = found[value.id]
    elif isinstance(value, ast.Lambda):
        found[name] = (value.lineno, parameters(value))
    elif isinstance(value, ast.Call) and getattr(value.func, "attr", getattr(value.func, "id", "")) in makers:
        found[name] = (value.lineno, [])


def visit(statements, found, nested=False):
    for node in statements:
        if isinstance(node, ast.Assign) and len(node.targets) == 1 and isinstance(node.targets[0], ast.Name):
            assign(node.targets[0].id, node.value, found, nested)
        if isinstance(node, (ast.FunctionDef, ast.AsyncFunctionDef)):
            found[node.name] = (node.lineno, parameters(node))
        elif isinstance(node, ast.ClassDef):
            found[node.name] = (node.lineno, [])
        else:
            for part in ("body", "handlers", "orelse", "finalbody"):
                visit([n for n in getattr(node, part, []) if isinstance(n, (ast.stmt, ast.ExceptHandler))], found, True)


found = {}
with open(sys.argv[1], "rb") as file:
    visit(ast.parse(file.read()).body, found)
for name, (line, names) in found.items():
    print(f"{name}\t{line}\t{' '.join(names)}")
