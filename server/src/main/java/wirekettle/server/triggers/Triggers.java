package wirekettle.server.triggers;

import com.fasterxml.jackson.core.type.TypeReference;
import jakarta.enterprise.context.ApplicationScoped;
import jakarta.enterprise.event.Event;
import jakarta.inject.Inject;
import java.io.IOException;
import java.nio.file.Path;
import java.time.DateTimeException;
import java.time.DayOfWeek;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.stream.Collectors;
import org.jboss.logging.Logger;
import wirekettle.core.flow.run.Requests;
import wirekettle.core.schedule.Cron;
import wirekettle.core.schedule.Schedule;
import wirekettle.core.schedule.WorkingDays;
import wirekettle.server.publish.Publication;
import wirekettle.server.publish.Publications;
import wirekettle.server.runs.Runner;
import wirekettle.server.signin.PersonMapper;
import wirekettle.server.web.Json;
import wirekettle.server.web.Problem;

/** Starts the flows of triggers: always the revision in force, with the right of whoever set the trigger. */
@ApplicationScoped
public class Triggers {
    private static final Logger LOG = Logger.getLogger(Triggers.class);

    @Inject
    TriggerMapper mapper;

    @Inject
    WorkingDaysMapper days;

    @Inject
    Publications publications;

    @Inject
    Runner runner;

    @Inject
    PersonMapper people;

    @Inject
    Event<TriggerRefused> refused;

    /** Returns what a trigger waits for. */
    public static TriggerSpec spec(TriggerMapper.Row row) {
        return Json.read(row.spec(), new TypeReference<>() {});
    }

    /**
     * Returns when a clock is due.
     *
     * @throws Problem 400 saying what of it cannot be read
     */
    Schedule schedule(TriggerSpec spec) {
        try {
            ZoneId zone = ZoneId.of(spec.zone() == null || spec.zone().isBlank() ? "UTC" : spec.zone());
            boolean wall = spec.cron() != null && !spec.cron().isBlank();
            return new Schedule(
                    wall ? Cron.parse(spec.cron()) : null,
                    wall ? null : spec.everyMinutes(),
                    zone,
                    workingDays(spec.days()),
                    Boolean.TRUE.equals(spec.postponed()));
        } catch (DateTimeException e) {
            throw new Problem(
                    400, "bad-zone", "“" + spec.zone() + "” is no time zone: give one as in Europe/Vienna, or UTC.");
        } catch (IllegalArgumentException e) {
            throw new Problem(400, "bad-schedule", sentence(e.getMessage()));
        }
    }

    static String sentence(String text) {
        return Character.toUpperCase(text.charAt(0)) + text.substring(1) + ".";
    }

    private WorkingDays workingDays(String name) {
        if (name == null || name.isBlank()) {
            return WorkingDays.ALL;
        }
        WorkingDaysMapper.Row row = days.byName(name);
        if (row == null) {
            throw new Problem(400, "no-working-days", "There are no working days called “" + name + "”.");
        }
        return workingDays(row);
    }

    static WorkingDays workingDays(WorkingDaysMapper.Row row) {
        List<Integer> weekdays = Json.read(row.weekdaysOff(), new TypeReference<>() {});
        List<String> dates = Json.read(row.datesOff(), new TypeReference<>() {});
        Set<DayOfWeek> off = weekdays.stream().map(DayOfWeek::of).collect(Collectors.toCollection(HashSet::new));
        return new WorkingDays(
                off,
                dates.stream().map(LocalDate::parse).collect(Collectors.toSet()),
                LocalTime.parse(row.opens()),
                row.cutOff() == null ? null : LocalTime.parse(row.cutOff()));
    }

    /**
     * Starts what a trigger starts, or notes why not; what is due while a run goes on does what its rule says.
     *
     * @param file the file that came, or null
     * @param anyhow whether a run that goes on does not matter: a person asks
     * @return the run, null where none was started
     */
    Long start(TriggerMapper.Row trigger, Path file, boolean anyhow) {
        boolean beside = anyhow || spec(trigger).overlapping() == TriggerSpec.Overlap.BESIDE;
        if (!beside && mapper.going(trigger.flowId(), trigger.environment())) {
            boolean waits = spec(trigger).overlapping() == TriggerSpec.Overlap.WAIT && file == null;
            if (waits) {
                mapper.waits(trigger.id(), true);
            }
            mapper.event(
                    trigger.id(),
                    waits ? "waits" : "left-out",
                    "a run of the flow goes on in " + trigger.environment(),
                    null);
            return null;
        }
        try {
            long run = started(trigger, file);
            mapper.event(trigger.id(), "started", "", run);
            return run;
        } catch (Problem | IOException e) {
            refuse(trigger, e.getMessage());
            return null;
        } catch (RuntimeException e) {
            LOG.errorf(e, "trigger %d could not start its flow", trigger.id());
            refuse(trigger, "something went wrong inside; the server's log has more");
            return null;
        }
    }

    /** Notes why a trigger did nothing, and tells those who want to know. */
    public void refuse(TriggerMapper.Row trigger, String why) {
        mapper.event(trigger.id(), "refused", why, null);
        refused.fire(new TriggerRefused(trigger.flowId(), trigger.environment(), why));
    }

    /**
     * Begins the run whose records are what callers send.
     *
     * @throws Problem saying why it cannot be begun
     */
    public long answer(TriggerMapper.Row trigger, Requests requests) throws IOException {
        long run = started(trigger, new Runner.Begun(trigger.kind(), trigger.id(), null, requests));
        mapper.event(trigger.id(), "started", "", run);
        return run;
    }

    private long started(TriggerMapper.Row trigger, Path file) throws IOException {
        return started(trigger, new Runner.Begun(trigger.kind(), trigger.id(), file));
    }

    private long started(TriggerMapper.Row trigger, Runner.Begun begun) throws IOException {
        Publication inForce = publications.inForce(trigger.flowId(), trigger.environment());
        if (inForce == null) {
            throw new Problem(
                    409, "not-in-force", "Nothing of this flow is in force in " + trigger.environment() + ".");
        }
        PersonMapper.Row person = people.byName(trigger.changedBy());
        if (person == null || !List.of(person.runIn().split(",")).contains(trigger.environment())) {
            throw new Problem(
                    403,
                    "not-allowed",
                    trigger.changedBy() + ", who set this trigger, may not run in " + trigger.environment()
                            + " any more: somebody who may has to save it.");
        }
        return runner.start(
                trigger.flowId(),
                inForce.revision(),
                publications.file(inForce),
                new Runner.RunRequest(
                        trigger.environment(), 0, false, trigger.changedBy(), begun, inForce.contracts()));
    }
}
