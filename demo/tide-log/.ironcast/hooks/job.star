# Sets what the scheduler reads. JSON has no comments that could hold marks.
path = "config/job.json"
job = json.decode(project.read(path))
if job["alarm"] != values.alarm:
    job["alarm"] = values.alarm
    project.write(path, json.indent(json.encode(job), indent = "  ") + "\n")
