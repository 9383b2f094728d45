package longthread.service.web;

import io.swagger.v3.oas.annotations.OpenAPIDefinition;
import io.swagger.v3.oas.annotations.enums.SecuritySchemeType;
import io.swagger.v3.oas.annotations.info.Info;
import io.swagger.v3.oas.annotations.security.SecurityRequirement;
import io.swagger.v3.oas.annotations.security.SecurityScheme;
import io.swagger.v3.oas.annotations.servers.Server;

/** What the published description of the interface says of itself. */
@OpenAPIDefinition(
    info =
        @Info(
            title = "Long Thread",
            version = "1",
            description =
                "Lineage events in; where data comes from, what a change breaks, why it is wrong"
                    + " or late out. Errors are problem documents (RFC 9457)."),
    servers = @Server(url = "/", description = "This service"),
    security = @SecurityRequirement(name = "key"))
@SecurityScheme(name = "key", type = SecuritySchemeType.HTTP, scheme = "bearer")
@org.springframework.context.annotation.Configuration(proxyBeanMethods = false)
class OpenApiDescription {
  OpenApiDescription() {}
}
