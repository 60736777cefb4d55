"""Where each function and class at the outermost level of a file begins and ends, as Python itself reads it.

    python3 extent.py FILE      prints: NAME <tab> FIRST LINE, of a decorator where there is one <tab> LAST LINE
"""

import ast
import sys

with open(sys.argv[1], "rb") as file:
    tree = ast.parse(file.read())
for node in tree.body:
    if isinstance(node, (ast.FunctionDef, ast.AsyncFunctionDef, ast.ClassDef)):
        first = min([node.lineno] + [decorator.lineno for decorator in node.decorator_list])
        print(node.name, first, node.end_lineno, sep="\t")
