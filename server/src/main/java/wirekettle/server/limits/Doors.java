package wirekettle.server.limits;

import io.vertx.core.Handler;
import io.vertx.core.Vertx;
import io.vertx.core.http.Cookie;
import io.vertx.core.http.HttpClosedException;
import io.vertx.core.http.HttpServerRequest;
import io.vertx.ext.web.Router;
import io.vertx.ext.web.RoutingContext;
import io.vertx.ext.web.handler.BodyHandler;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.enterprise.event.Observes;
import jakarta.inject.Inject;
import java.util.Arrays;
import java.util.HashSet;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import org.eclipse.microprofile.config.inject.ConfigProperty;
import wirekettle.server.signin.Sessions;

/**
 * What every request passes before anything is read of it: the host it was sent to must be ours; content is taken only
 * from people who signed in, so many pieces at a time and within a time; strangers may send a sign-in and nothing else.
 */
@ApplicationScoped
public class Doors {
    private static final String SIGN_IN = "/api/sign-in";
    private static final long SIGN_IN_BYTES = 8 << 10;
    private static final int SIGN_IN_MILLIS = 10_000;
    private static final int CONTENT_MILLIS = 15 * 60_000;
    private static final String SERVED = "/serve/";
    private static final int CALLERS_AT_ONCE = 2_000;
    private static final int STRANGERS_AT_ONCE = 64;
    private static final int PERSON_AT_ONCE = 24;
    private static final Handler<RoutingContext> READ_WHOLE =
            BodyHandler.create(false).setBodyLimit(SIGN_IN_BYTES);

    @Inject
    Vertx vertx;

    @Inject
    Sessions sessions;

    @ConfigProperty(name = "quarkus.http.host")
    String boundTo;

    @ConfigProperty(name = "wirekettle.call-seconds")
    int callSeconds;

    @ConfigProperty(name = "wirekettle.hosts")
    Optional<Set<String>> named;

    // requests with content that are on their way: of strangers by address, of people by session
    private final Map<String, Integer> strangers = new ConcurrentHashMap<>();
    private final Map<String, Integer> people = new ConcurrentHashMap<>();
    private final Map<String, Integer> callers = new ConcurrentHashMap<>();

    void routes(@Observes Router router) {
        Set<String> ours =
                new HashSet<>(Arrays.asList("localhost", "127.0.0.1", "[::1]", boundTo.toLowerCase(Locale.ROOT)));
        named.ifPresent(names -> names.forEach(name -> ours.add(name.strip().toLowerCase(Locale.ROOT))));
        router.route().order(-5_000).handler(context -> {
            String host = String.valueOf(context.request().getHeader("Host")).toLowerCase(Locale.ROOT);
            if (ours.contains(host.replaceFirst(":\\d{1,5}$", ""))) {
                context.next();
            } else {
                refuse(
                        context,
                        421,
                        "unknown-host",
                        "This server is not known by that host name. Name it in WIREKETTLE_HOSTS if it should be.");
            }
        });
        router.route().order(-4_000).handler(this::content).failureHandler(Doors::gone);
        router.route("/q/openapi*").order(-3_000).handler(this::signedIn);
    }

    private static String token(RoutingContext context) {
        Cookie cookie = context.request().getCookie(Sessions.COOKIE);
        return cookie == null ? null : cookie.getValue();
    }

    /** The document of the API tells how it is built: it is for people who signed in. */
    private void signedIn(RoutingContext context) {
        String token = token(context);
        context.request().pause();
        vertx.executeBlocking(() -> sessions.person(token) != null, false).onComplete(known -> {
            context.request().resume();
            if (known.succeeded() && known.result()) {
                context.next();
            } else {
                refuse(context, 401, "signed-out", "Sign in first.");
            }
        });
    }

    private static boolean hasContent(HttpServerRequest request) {
        String length = request.getHeader("Content-Length");
        return request.getHeader("Transfer-Encoding") != null || length != null && !length.equals("0");
    }

    private void content(RoutingContext context) {
        HttpServerRequest request = context.request();
        if (!hasContent(request)) {
            context.next();
            return;
        }
        if (context.normalizedPath().equals(SIGN_IN)) {
            String length = request.getHeader("Content-Length");
            if (length == null || !length.matches("\\d{1,9}") || Long.parseLong(length) > SIGN_IN_BYTES) {
                refuse(context, 413, "too-large", "A sign-in is a name and a password.");
                return;
            }
            String address = request.remoteAddress() == null
                    ? ""
                    : request.remoteAddress().hostAddress();
            // read at once: who waits for others that sign in has sent all of it
            counted(context, strangers, address, STRANGERS_AT_ONCE, SIGN_IN_MILLIS, READ_WHOLE);
            return;
        }
        if (context.normalizedPath().startsWith(SERVED)) {
            String address = request.remoteAddress() == null
                    ? ""
                    : request.remoteAddress().hostAddress();
            counted(context, callers, address, CALLERS_AT_ONCE, callSeconds * 1_000, RoutingContext::next);
            return;
        }
        String token = token(context);
        if (token != null && sessions.known(token)) {
            counted(context, people, token, PERSON_AT_ONCE, CONTENT_MILLIS, RoutingContext::next);
            return;
        }
        request.pause();
        vertx.executeBlocking(() -> sessions.person(token) != null, false).onComplete(known -> {
            request.resume();
            if (known.succeeded() && known.result()) {
                counted(context, people, token, PERSON_AT_ONCE, CONTENT_MILLIS, RoutingContext::next);
            } else {
                refuse(context, 401, "signed-out", "Sign in first.");
            }
        });
    }

    private static void leave(Map<String, Integer> counts, String who) {
        counts.computeIfPresent(who, (key, count) -> count <= 1 ? null : count - 1);
    }

    private void counted(
            RoutingContext context,
            Map<String, Integer> counts,
            String who,
            int most,
            int millis,
            Handler<RoutingContext> then) {
        if (counts.merge(who, 1, Integer::sum) > most) {
            leave(counts, who);
            refuse(context, 429, "busy", "Too many requests with content are on their way: wait for some of them.");
            return;
        }
        HttpServerRequest request = context.request();
        long timer = vertx.setTimer(millis, late -> {
            if (!received(request)) {
                request.connection().close();
            }
        });
        context.addEndHandler(ended -> {
            vertx.cancelTimer(timer);
            leave(counts, who);
        });
        then.handle(context);
    }

    /** Who goes away in the middle of a request is told nothing, and is no trouble of ours. */
    private static void gone(RoutingContext context) {
        if (!(context.failure() instanceof HttpClosedException)) {
            context.next();
        }
    }

    /** Tells whether all of a request came: one that is worked on for long is not slow in being sent. */
    private static boolean received(HttpServerRequest request) {
        String length = request.getHeader("Content-Length");
        return request.isEnded()
                || length != null && length.matches("\\d{1,18}") && request.bytesRead() >= Long.parseLong(length);
    }

    /** Answers without reading what else was sent; the connection ends with it. */
    private static void refuse(RoutingContext context, int status, String code, String detail) {
        boolean more = !context.request().isEnded();
        context.response()
                .setStatusCode(status)
                .putHeader("Content-Type", "application/problem+json")
                .putHeader("Cache-Control", "no-store");
        if (more) {
            context.response().putHeader("Connection", "close");
        }
        context.response()
                .end("{\"type\":\"about:blank\",\"title\":\"" + code + "\",\"status\":" + status + ",\"detail\":\""
                        + detail + "\",\"code\":\"" + code + "\"}")
                .onComplete(done -> {
                    if (more) {
                        context.request().connection().close();
                    }
                });
    }
}
