package wirekettle.server.alerts;

import com.fasterxml.jackson.core.type.TypeReference;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.inject.Inject;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.eclipse.microprofile.config.inject.ConfigProperty;
import wirekettle.core.flow.file.FlowFile;
import wirekettle.server.flows.FlowMapper;
import wirekettle.server.web.Json;

/** Raises alerts once each, and gathers what is told to one place into one message. */
@ApplicationScoped
class Alerts {
    @Inject
    AlertMapper mapper;

    @Inject
    FlowMapper flows;

    @ConfigProperty(name = "wirekettle.address")
    String address;

    /**
     * Something to be told.
     *
     * @param rule the rule that wants it told
     * @param flow the flow it is about, null for none
     * @param run the run it is about, null for none
     * @param key what makes it the same as something told before
     * @param subject it in one line
     * @param body what is known, and what to do
     */
    record News(
            AlertMapper.Rule rule, Long flow, String environment, Long run, String key, String subject, String body) {}

    static AlertSpec spec(AlertMapper.Rule rule) {
        return Json.read(rule.spec(), new TypeReference<>() {});
    }

    /** Tells news; what was told before is not told again. */
    void tell(List<News> news) {
        Map<String, List<News>> messages = new LinkedHashMap<>();
        Map<String, Instant> due = new LinkedHashMap<>();
        for (News each : news) {
            String key = each.rule().id() + " " + each.key();
            int raised = mapper.raise(
                    each.rule().id(),
                    each.rule().kind(),
                    each.flow(),
                    each.environment(),
                    each.run(),
                    key,
                    each.subject(),
                    each.body());
            if (raised == 0) {
                continue;
            }
            AlertSpec spec = spec(each.rule());
            Instant at = waits(spec, Instant.now());
            for (String mail : spec.mail()) {
                add("mail " + mail, each, at, messages, due);
            }
            if (spec.hook() != null && !spec.hook().isBlank()) {
                add("hook " + spec.hook(), each, at, messages, due);
            }
        }
        messages.forEach((target, its) -> {
            int space = target.indexOf(' ');
            boolean hook = target.startsWith("hook");
            mapper.write(
                    target.substring(0, space),
                    target.substring(space + 1),
                    subject(its),
                    hook ? hook(its) : body(its),
                    due.get(target));
        });
    }

    private static void add(
            String target, News news, Instant at, Map<String, List<News>> messages, Map<String, Instant> due) {
        messages.computeIfAbsent(target, key -> new ArrayList<>()).add(news);
        due.merge(target, at, (a, b) -> a.isBefore(b) ? a : b);
    }

    /** Returns when a message may leave: at once, or when the quiet hours are over. */
    static Instant waits(AlertSpec spec, Instant now) {
        if (spec.quietFrom() == null || spec.quietTo() == null) {
            return now;
        }
        ZoneId zone = ZoneId.of(spec.zone() == null ? "UTC" : spec.zone());
        LocalTime from = LocalTime.parse(spec.quietFrom());
        LocalTime to = LocalTime.parse(spec.quietTo());
        LocalTime at = LocalTime.ofInstant(now, zone);
        LocalDate day = LocalDate.ofInstant(now, zone);
        boolean over = !from.isBefore(to);
        boolean quiet = over ? !at.isBefore(from) || at.isBefore(to) : !at.isBefore(from) && at.isBefore(to);
        if (!quiet) {
            return now;
        }
        LocalDate ends = over && !at.isBefore(from) ? day.plusDays(1) : day;
        return ends.atTime(to).atZone(zone).toInstant();
    }

    private static String subject(List<News> news) {
        String first = news.get(0).subject();
        return news.size() == 1 ? first : first + ", and " + (news.size() - 1) + " more";
    }

    private String body(List<News> news) {
        StringBuilder text = new StringBuilder();
        for (News each : news) {
            text.append(each.subject()).append("\n\n").append(each.body()).append("\n");
            if (each.run() != null) {
                text.append("\n")
                        .append(address)
                        .append("/runs/")
                        .append(each.run())
                        .append("\n");
            } else if (each.flow() != null) {
                text.append("\n")
                        .append(address)
                        .append("/flows/")
                        .append(each.flow())
                        .append("/triggers\n");
            }
            text.append("\n");
        }
        news.stream()
                .map(each -> runbook(each.flow()))
                .filter(note -> !note.isBlank())
                .distinct()
                .forEach(note -> text.append("What to do\n\n").append(note).append("\n"));
        return text.toString();
    }

    private String hook(List<News> news) {
        List<Map<String, Object>> all = new ArrayList<>();
        for (News each : news) {
            Map<String, Object> its = new LinkedHashMap<>();
            its.put("kind", each.rule().kind());
            its.put("subject", each.subject());
            its.put("text", each.body());
            its.put("environment", each.environment());
            its.put("run", each.run());
            its.put("flow", each.flow());
            its.put("runbook", runbook(each.flow()));
            all.add(its);
        }
        return Json.write(Map.of("alerts", all));
    }

    /** Returns what the flow says to whoever is on duty. */
    String runbook(Long flow) {
        FlowMapper.Row row = flow == null ? null : flows.byId(flow);
        FlowFile file = row == null ? null : FlowFile.parse(flows.file(flow, row.revision()));
        return file == null || file.runbook() == null ? "" : file.runbook();
    }
}
