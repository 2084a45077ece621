package wirekettle.server.serve;

import io.vertx.core.Vertx;
import io.vertx.core.buffer.Buffer;
import io.vertx.ext.web.Router;
import io.vertx.ext.web.RoutingContext;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.enterprise.event.Observes;
import jakarta.inject.Inject;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jboss.logging.Logger;
import wirekettle.core.record.InputReader;
import wirekettle.core.value.Node;
import wirekettle.server.web.Json;
import wirekettle.server.web.Problem;
import wirekettle.server.web.Problems;

/**
 * Answers callers at {@code /serve/}: JSON, XML and forms by POST, and GET where a flow allows it. Who may not ask is
 * told so before anything is read of what is sent.
 */
@ApplicationScoped
class ServeRoutes {
    static final String PREFIX = "/serve/";
    private static final Logger LOG = Logger.getLogger(ServeRoutes.class);
    private static final int ORDER = -2_500;
    private static final String CALL = "caller";
    private static final Pattern BELOW =
            Pattern.compile("(.+)/(?:(openapi\\.json|page)|" + Asked.ANSWERS + "/([A-Za-z0-9_-]+))");

    @Inject
    Vertx vertx;

    @Inject
    ServedFlows flows;

    @Inject
    CallerAnswers answers;

    @Inject
    AskPages pages;

    @Inject
    CallerTraffic traffic;

    @Inject
    CallerConnection connection;

    /** Somebody who asks: what, under which name, and what it is told at once, null where its request is read. */
    private record Call(ServedFlows.Found found, String caller, Reply reply, long since) {}

    void routes(@Observes Router router) {
        router.route(PREFIX + "*").order(ORDER).handler(this::atTheDoor);
        router.route(PREFIX + "*").order(ORDER + 1).handler(this::read).failureHandler(this::failed);
    }

    private void atTheDoor(RoutingContext context) {
        long since = System.nanoTime();
        String path = path(context);
        ServedFlows.Found known = BELOW.matcher(path).matches() ? null : flows.known(path);
        if (known != null && known.served().knows(new CallerRequest(context).keyHash())) {
            // the usual way: nothing has to be asked, and no other thread is needed
            letIn(context, call(context, known, since));
            return;
        }
        context.request().pause();
        vertx.executeBlocking(() -> call(context, since), false).onComplete(called -> {
            context.request().resume();
            if (called.failed()) {
                tell(context, null, unexpected(called.cause()));
            } else {
                letIn(context, called.result());
            }
        });
    }

    private void letIn(RoutingContext context, Call call) {
        if (call.reply() != null) {
            tell(context, call, call.reply());
            return;
        }
        context.put(CALL, call);
        connection.read(context, call.found().served().mostBytes(), refused -> tell(context, call, refused));
    }

    private static String path(RoutingContext context) {
        return context.normalizedPath().substring(PREFIX.length());
    }

    private void failed(RoutingContext context) {
        Call call = context.get(CALL);
        if (context.statusCode() == 413 && call != null) {
            tell(context, call, Reply.tooLarge(call.found().served().mostBytes()));
        } else {
            context.next();
        }
    }

    private void read(RoutingContext context) {
        Call call = context.get(CALL);
        connection.answer(
                context,
                over -> answered(context, call, over),
                (done, thrown) -> tell(context, call, thrown == null ? done : unexpected(thrown)));
    }

    /** Returns what is told where something was not foreseen. */
    static Reply unexpected(Throwable thrown) {
        if (thrown instanceof Problem problem) {
            return Reply.problem(problem.status(), problem.code(), problem.getMessage());
        }
        if (Problems.databaseAway(thrown)) {
            return Reply.later("no-database", "The database is not there at the moment: try again when it is back.");
        }
        LOG.error("a caller could not be answered", thrown);
        return Reply.problem(500, "internal", "Something went wrong inside; the server's log has more.");
    }

    /** Says who asks what, and what is told without reading the request. */
    private Call call(RoutingContext context, long since) {
        String path = path(context);
        Matcher below = BELOW.matcher(path);
        ServedFlows.Found found = flows.at(below.matches() ? below.group(1) : path);
        return found == null
                ? new Call(null, "", Reply.problem(404, "nothing-here", "Nothing answers at this path."), since)
                : call(context, found, since);
    }

    private Call call(RoutingContext context, ServedFlows.Found found, long since) {
        Matcher below = BELOW.matcher(path(context));
        boolean isBelow = below.matches();
        Served served = found.served();
        if (Origins.preflight(context.request())) {
            return new Call(found, "", Origins.allowed(context.request(), served.spec()), since);
        }
        CallerRequest request = new CallerRequest(context);
        CallerKeyMapper.Known key = key(served, request.keyHash());
        if (key == null && !Boolean.TRUE.equals(served.spec().open())) {
            return new Call(found, "", noKey(), since);
        }
        String caller = key == null ? "" : key.name();
        Integer aMinute = key == null ? null : key.aMinute();
        long seconds = served.pace().takes(caller, aMinute, System.nanoTime());
        Reply reply;
        if (seconds > 0) {
            reply = Reply.tooMany(aMinute, seconds);
        } else if (!isBelow) {
            reply = request.refused(served);
        } else if (!request.get()) {
            reply = Reply.problem(405, "bad-method", "This is asked by GET.");
        } else if ("page".equals(below.group(2))) {
            reply = new Reply(200, Reply.JSON, Json.write(pages.of(served)), Map.of());
        } else if (below.group(2) != null) {
            reply = new Reply(
                    200,
                    Reply.JSON,
                    OpenApi.of(served.spec(), served.revision(), served.file(), PREFIX)
                            .toPrettyString(),
                    Map.of());
        } else {
            reply = answers.at(served.trigger(), caller, PREFIX + below.group(1), below.group(3));
        }
        return new Call(found, caller, reply, since);
    }

    /** Returns what is told where no key that counts was shown. */
    static Reply noKey() {
        return Reply.problem(
                        401, "no-key", "Send a key that counts, as Authorization: Bearer KEY or as X-Api-Key: KEY.")
                .with("WWW-Authenticate", "Bearer");
    }

    /** Returns the key a caller shows, null where it is none that counts. */
    private static CallerKeyMapper.Known key(Served served, String hash) {
        CallerKeyMapper.Known known = hash == null ? null : served.key(hash);
        return known == null || known.endsAt() != null && !known.endsAt().isAfter(Instant.now()) ? null : known;
    }

    private CompletableFuture<Reply> answered(RoutingContext context, Call call, Runnable over) {
        CallerRequest request = new CallerRequest(context);
        Served served = call.found().served();
        String asked = context.normalizedPath() + "?" + context.request().query();
        Reply known = request.get() ? served.remembered().get(asked, System.currentTimeMillis()) : null;
        if (known != null) {
            return told(known, over);
        }
        List<InputReader.Problem> problems = new ArrayList<>();
        Node input;
        try {
            input = request.input(served, call.found().values(), problems);
        } catch (InputReader.Unreadable e) {
            return told(request.unreadable(e), over);
        }
        if (!problems.isEmpty()) {
            return told(Reply.wrong(problems), over);
        }
        boolean later = request.later()
                || !request.get() && Boolean.TRUE.equals(served.spec().later());
        CompletableFuture<Reply> reply =
                served.answer(Asked.of(input, call.caller(), context.normalizedPath(), request.named(), later), over);
        return request.get()
                ? reply.thenApply(its -> served.remembered().put(asked, its, System.currentTimeMillis()))
                : reply;
    }

    private static CompletableFuture<Reply> told(Reply reply, Runnable over) {
        over.run();
        return CompletableFuture.completedFuture(reply);
    }

    /** Counts an answer and writes it. */
    private void tell(RoutingContext context, Call call, Reply reply) {
        Reply last = reply;
        if (call != null && call.found() != null) {
            Served served = call.found().served();
            last = Origins.seen(context.request(), served.spec(), reply);
            traffic.count(served.trigger(), call.caller(), reply.status(), System.nanoTime() - call.since());
        }
        connection.write(
                context,
                last.status(),
                last.type(),
                last.type() == null ? null : Buffer.buffer(last.body()),
                last.headers());
    }
}
