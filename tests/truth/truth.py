# What Python itself makes of a file: its functions and classes that no other hides, each with its line and parameters,
# without `self`.
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


def visit(statements, found):
    for node in statements:
        if isinstance(node, (ast.FunctionDef, ast.AsyncFunctionDef)):
            found[node.name] = (node.lineno, parameters(node))
        elif isinstance(node, ast.ClassDef):
            found[node.name] = (node.lineno, [])
        else:
            for part in ("body", "handlers", "orelse", "finalbody"):
                visit([n for n in getattr(node, part, []) if isinstance(n, (ast.stmt, ast.ExceptHandler))], found)


found = {}
with open(sys.argv[1], "rb") as file:
    visit(ast.parse(file.read()).body, found)
for name, (line, names) in found.items():
    print(f"{name}\t{line}\t{' '.join(names)}")
