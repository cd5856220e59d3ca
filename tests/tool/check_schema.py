"""check_schema.py SCHEMA FILE…: each line of each JSON Lines file, or each TOML file, against the schema; exit 1 and why at the first that fails."""
import json
import sys
import tomllib

import jsonschema

with open(sys.argv[1], encoding="utf-8") as file:
    schema = json.load(file)
jsonschema.Draft202012Validator.check_schema(schema)
validator = jsonschema.Draft202012Validator(schema)
for path in sys.argv[2:]:
    if path.endswith(".toml"):
        with open(path, "rb") as file:
            for error in validator.iter_errors(tomllib.load(file)):
                print(f"{path}: {error.message}")
                sys.exit(1)
        continue
    with open(path, encoding="utf-8") as lines:
        for number, line in enumerate(lines, 1):
            for error in validator.iter_errors(json.loads(line)):
                print(f"{path}:{number}: {error.message}")
                sys.exit(1)
