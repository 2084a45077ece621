package wirekettle.server.web;

import io.vertx.ext.web.Router;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.enterprise.event.Observes;

/** Serves the front end's page for every address that is a screen, and the headers every answer carries. */
@ApplicationScoped
public final class FrontEnd {
    void routes(@Observes Router router) {
        router.route().order(-2_000).handler(context -> {
            context.response()
                    .putHeader("X-Content-Type-Options", "nosniff")
                    .putHeader("X-Frame-Options", "DENY")
                    .putHeader("Referrer-Policy", "same-origin")
                    .putHeader(
                            "Content-Security-Policy",
                            "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; frame-ancestors 'none';"
                                    + " base-uri 'self'; form-action 'self'; object-src 'none'");
            if (context.request().path().startsWith("/api/")
                    || context.request().path().startsWith("/q/")) {
                context.response().putHeader("Cache-Control", "no-store");
            }
            context.next();
        });
        router.getWithRegex("/(ask/.*|(?!api/|q/|assets/)[^.]*)").order(-1_000).handler(context -> {
            if (context.request().path().equals("/")) {
                context.next();
            } else {
                context.reroute("/");
            }
        });
    }
}
