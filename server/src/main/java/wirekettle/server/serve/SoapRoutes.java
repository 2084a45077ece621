package wirekettle.server.serve;

import io.vertx.core.Vertx;
import io.vertx.core.buffer.Buffer;
import io.vertx.core.http.HttpMethod;
import io.vertx.core.http.HttpServerRequest;
import io.vertx.ext.web.Router;
import io.vertx.ext.web.RoutingContext;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.enterprise.event.Observes;
import jakarta.inject.Inject;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.Message;
import wirekettle.core.contract.SoapVersion;
import wirekettle.core.flow.file.ReadStage;
import wirekettle.core.flow.offer.Mirror;
import wirekettle.core.schema.ElementDecl;
import wirekettle.core.soap.FaultCode;
import wirekettle.core.soap.SoapRequest;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeWriter;
import wirekettle.server.signin.Tokens;

/** Answers callers at {@code /serve/} as SOAP, and gives them the service description by {@code ?wsdl}. */
@ApplicationScoped
class SoapRoutes {
    private static final int ORDER = -2_502;
    private static final String CALL = "soap";
    private static final Pattern ACTION = Pattern.compile("(?i);\\s*action\\s*=\\s*\"([^\"]*)\"");
    private static final int MOST_NAMED = 255;

    @Inject
    Vertx vertx;

    @Inject
    ServedFlows flows;

    @Inject
    CallerTraffic traffic;

    @Inject
    CallerConnection connection;

    /** Somebody who asks: where, and by which key; null where that is told by the envelope or none is asked for. */
    private record Call(SoapAddress at, String keyHash, long since) {}

    void routes(@Observes Router router) {
        router.route(ServeRoutes.PREFIX + "*").order(ORDER).handler(this::atTheDoor);
        router.route(ServeRoutes.PREFIX + "*")
                .order(ORDER + 1)
                .handler(this::read)
                .failureHandler(this::failed);
    }

    private void atTheDoor(RoutingContext context) {
        HttpServerRequest request = context.request();
        String path = context.normalizedPath().substring(ServeRoutes.PREFIX.length());
        boolean get = request.method().equals(HttpMethod.GET) && (wsdl(request) || path.contains("."));
        if (!get && !(request.method().equals(HttpMethod.POST) && soap(request))) {
            context.next();
            return;
        }
        long since = System.nanoTime();
        request.pause();
        vertx.executeBlocking(() -> get ? description(context, path) : call(request, path, since), false)
                .onComplete(called -> {
                    request.resume();
                    if (called.failed()) {
                        tell(context, SoapReply.refused(version(request), ServeRoutes.unexpected(called.cause())));
                    } else if (called.result() == null) {
                        context.next();
                    } else if (called.result() instanceof SoapReply reply) {
                        tell(context, reply);
                    } else if (called.result() instanceof Call call) {
                        context.put(CALL, call);
                        connection.read(
                                context,
                                call.at().mostBytes(),
                                refused -> tell(context, SoapReply.refused(version(request), refused)));
                    }
                });
    }

    private static boolean wsdl(HttpServerRequest request) {
        return "wsdl".equalsIgnoreCase(request.query());
    }

    private static boolean soap(HttpServerRequest request) {
        String type = type(request);
        return type.equals("text/xml") || type.equals("application/soap+xml") || type.equals("multipart/related");
    }

    private static String type(HttpServerRequest request) {
        String type = request.getHeader("Content-Type");
        return type == null ? "" : type.replaceFirst(";.*", "").strip().toLowerCase(Locale.ROOT);
    }

    private static SoapVersion version(HttpServerRequest request) {
        String type = String.valueOf(request.getHeader("Content-Type"));
        return type.contains("application/soap+xml") ? SoapVersion.SOAP_12 : SoapVersion.SOAP_11;
    }

    /** Returns a document of a service description, null where another route has the answer. */
    private SoapReply description(RoutingContext context, String path) {
        boolean asked = wsdl(context.request());
        int slash = path.lastIndexOf('/');
        String base = asked || slash < 0 ? path : path.substring(0, slash);
        SoapAddress at = flows.soap(base);
        if (at == null) {
            return null;
        }
        String own = context.request().scheme() + "://" + context.request().authority() + ServeRoutes.PREFIX + base;
        byte[] text = at.document(own, asked ? null : path.substring(slash + 1));
        return text == null ? null : new SoapReply(200, "text/xml; charset=utf-8", text, Map.of());
    }

    /** Lets in who may ask: by a key at the door, or where the envelope may tell. */
    private Object call(HttpServerRequest request, String path, long since) {
        SoapAddress at = flows.soap(path);
        if (at == null) {
            return null;
        }
        String hash = CallerRequest.keyHash(request);
        for (Served each : at.flows()) {
            boolean may = Boolean.TRUE.equals(each.spec().open())
                    || hash == null && Boolean.TRUE.equals(each.spec().soap().token())
                    || hash != null && key(each, hash) != null;
            if (may) {
                return new Call(at, hash, since);
            }
        }
        return noKey(request);
    }

    private static SoapReply noKey(HttpServerRequest request) {
        return SoapReply.refused(version(request), ServeRoutes.noKey());
    }

    private static CallerKeyMapper.Known key(Served served, String hash) {
        CallerKeyMapper.Known known = served.key(hash);
        return known == null || known.endsAt() != null && !known.endsAt().isAfter(Instant.now()) ? null : known;
    }

    private void read(RoutingContext context) {
        Call call = context.get(CALL);
        if (call == null) {
            context.next();
            return;
        }
        connection.answer(
                context,
                over -> answered(context, call, over),
                (done, thrown) -> tell(
                        context,
                        thrown == null
                                ? done
                                : SoapReply.refused(version(context.request()), ServeRoutes.unexpected(thrown))));
    }

    private void failed(RoutingContext context) {
        Call call = context.get(CALL);
        if (context.statusCode() == 413 && call != null) {
            tell(
                    context,
                    SoapReply.refused(
                            version(context.request()), Reply.tooLarge(call.at().mostBytes())));
        } else {
            context.next();
        }
    }

    private CompletableFuture<SoapReply> answered(RoutingContext context, Call call, Runnable over) {
        HttpServerRequest http = context.request();
        SoapVersion version = version(http);
        Buffer body = context.body().buffer();
        try {
            SoapRequest request =
                    SoapRequest.read(http.getHeader("Content-Type"), body == null ? new byte[0] : body.getBytes());
            version = request.version();
            SoapAddress.Asked asked = call.at().asked(request, action(http));
            return answered(context, call, request, asked, over);
        } catch (SoapRequest.Refused e) {
            over.run();
            return CompletableFuture.completedFuture(SoapReply.fault(version, e.code(), e.getMessage()));
        }
    }

    private static String action(HttpServerRequest http) {
        String action = http.getHeader("SOAPAction");
        if (action != null) {
            return action.strip().replaceAll("^\"|\"$", "");
        }
        Matcher parameter = ACTION.matcher(String.valueOf(http.getHeader("Content-Type")));
        return parameter.find() ? parameter.group(1) : null;
    }

    private CompletableFuture<SoapReply> answered(
            RoutingContext context, Call call, SoapRequest request, SoapAddress.Asked asked, Runnable over)
            throws SoapRequest.Refused {
        Served served = asked.served();
        Contract.Offered offered = asked.offered();
        Message input = offered.operation().input();
        boolean tokens = Boolean.TRUE.equals(served.spec().soap().token());
        request.understand(input.headers().stream().map(ElementDecl::name).toList(), tokens);
        CallerKeyMapper.Known key = key(served, call, request, tokens);
        String caller = key == null ? "" : key.name();
        if (key == null && !Boolean.TRUE.equals(served.spec().open())) {
            over.run();
            return counted(served, call, caller, noKey(context.request()));
        }
        Integer aMinute = key == null ? null : key.aMinute();
        long seconds = served.pace().takes(caller, aMinute, System.nanoTime());
        if (seconds > 0) {
            over.run();
            return counted(served, call, caller, SoapReply.refused(request.version(), Reply.tooMany(aMinute, seconds)));
        }
        List<String> problems = problems(call.at(), input, request);
        if (!problems.isEmpty()) {
            over.run();
            return counted(
                    served,
                    call,
                    caller,
                    SoapReply.fault(request.version(), FaultCode.SENDER, SoapReply.shown(problems)));
        }
        Node record = Mirror.record(call.at().contract(), input, request.headers(), request.body(), ReadStage.INPUT);
        String named = named(served, request, record);
        Asked sent = Asked.of(record, caller, context.normalizedPath(), named, false)
                .fitting(answer -> SoapReply.wrong(answer, call.at(), offered));
        return served.answer(sent, over)
                .thenApply(reply ->
                        SoapReply.of(reply, call.at(), offered, request.version(), request.related(), request.packed()))
                .thenCompose(reply -> counted(served, call, caller, reply));
    }

    private CompletableFuture<SoapReply> counted(Served served, Call call, String caller, SoapReply reply) {
        traffic.count(served.trigger(), caller, reply.status(), System.nanoTime() - call.since());
        return CompletableFuture.completedFuture(reply);
    }

    private static CallerKeyMapper.Known key(Served served, Call call, SoapRequest request, boolean tokens) {
        if (call.keyHash() != null) {
            return key(served, call.keyHash());
        }
        SoapRequest.Token token = tokens ? request.token() : null;
        if (token == null || token.password() == null) {
            return null;
        }
        CallerKeyMapper.Known known = key(served, Tokens.hash(token.password()));
        return known == null || !known.name().equals(token.name()) ? null : known;
    }

    /** Holds what was sent against the contract's schemas. */
    private static List<String> problems(SoapAddress at, Message input, SoapRequest request) {
        List<Name> declared = input.headers().stream().map(ElementDecl::name).toList();
        List<Node> all = new ArrayList<>(request.headers().stream()
                .filter(each -> declared.contains(each.name()))
                .toList());
        all.addAll(request.body());
        List<String> problems = new ArrayList<>();
        if (request.body().size() != input.body().size()) {
            problems.add("the body has " + request.body().size() + " elements and not "
                    + input.body().size());
        }
        for (Node each : all) {
            at.contract()
                    .check()
                    .problems(NodeWriter.write(each, false).getBytes(StandardCharsets.UTF_8))
                    .forEach(problem -> problems.add(each.name().local() + ": " + problem));
        }
        return problems;
    }

    /** Returns the name under which the same is not worked on twice: the message's id, or the record's business key. */
    private static String named(Served served, SoapRequest request, Node record) {
        String named = request.messageId();
        if (named == null && Boolean.TRUE.equals(served.spec().soap().byKey())) {
            String key = served.key(record);
            named = key == null || key.isBlank() ? null : "key:" + key;
        }
        return named == null || named.length() <= MOST_NAMED ? named : Tokens.hash(named);
    }

    private void tell(RoutingContext context, SoapReply reply) {
        connection.write(context, reply.status(), reply.type(), Buffer.buffer(reply.body()), reply.headers());
    }
}
