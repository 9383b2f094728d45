package longthread.service.job;

import io.swagger.v3.oas.annotations.Operation;
import longthread.service.live.Asset;
import longthread.service.live.References;
import longthread.service.web.ProblemException;
import org.springframework.core.io.ClassPathResource;
import org.springframework.core.io.Resource;
import org.springframework.http.HttpStatus;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** One job from the inside over HTTP. */
@RestController
class JobController {
  private final References references;
  private final JobDetails details;
  private final JobStepsReader steps;
  private final Surroundings surroundings;

  JobController(
      References references, JobDetails details, JobStepsReader steps, Surroundings surroundings) {
    this.surroundings = surroundings;
    this.references = references;
    this.details = details;
    this.steps = steps;
  }

  @GetMapping("/api/v1/job")
  @Operation(
      operationId = "getJob",
      summary = "Show a job: each target's columns with their sources")
  JobDetails.JobDetail job(@RequestParam String ref) {
    return details.of(jobNamed(ref));
  }

  @GetMapping("/api/v1/job/steps")
  @Operation(operationId = "getJobSteps", summary = "Show how a job computes what it writes")
  JobStepsReader.JobSteps steps(@RequestParam String ref) {
    Asset job = jobNamed(ref);
    if (!surroundings.areSeen(job)) {
      throw new ProblemException(
          HttpStatus.FORBIDDEN,
          "restricted-job",
          "What this job computes is restricted",
          job.ref()
              + " reads or writes something that your grants do not cover, so its program is not"
              + " shown; an administrator can grant that too");
    }
    return steps.of(job);
  }

  /** The JSON Schema of the facet by which jobs report their inner steps. */
  @GetMapping(value = "/api/v1/schemas/steps.json", produces = "application/schema+json")
  @Operation(
      operationId = "getStepsSchema",
      summary = "The JSON Schema of the facet longthread_steps")
  Resource schema() {
    return new ClassPathResource("schemas/steps.json");
  }

  private Asset jobNamed(String ref) {
    Asset asset = references.resolve(ref).asset();
    if (!asset.isJob()) {
      throw ProblemException.badRequest(
          "not-a-job", asset.ref() + " is a " + asset.kind().word() + "; this call takes a job");
    }
    return asset;
  }
}
