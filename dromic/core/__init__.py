"""The computation: values, search and judgement, with no toolkit and no files."""
