"""Judges TOML documents by a JSON Schema, with a validator that is not Envar's.

    validate.py SCHEMA FILE...

Prints `good FILE` or `bad FILE: REASON`, a line a file; a file that is not TOML is bad.
"""
import json
import sys
import tomllib

from jsonschema import Draft202012Validator

with open(sys.argv[1], encoding="utf-8") as source:
    schema = json.load(source)
Draft202012Validator.check_schema(schema)
validator = Draft202012Validator(schema)
for name in sys.argv[2:]:
    try:
        with open(name, "rb") as source:
            document = tomllib.load(source)
    except (tomllib.TOMLDecodeError, UnicodeDecodeError) as error:
        print(f"bad {name}: {error}")
        continue
    faults = [f"{error.json_path}: {error.message}" for error in validator.iter_errors(document)]
    print(f"bad {name}: {faults[0][:200]}" if faults else f"good {name}")
