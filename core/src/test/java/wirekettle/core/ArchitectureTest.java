package wirekettle.core;

import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.noClasses;
import static com.tngtech.archunit.library.Architectures.layeredArchitecture;

import com.tngtech.archunit.core.domain.JavaClasses;
import com.tngtech.archunit.core.importer.ClassFileImporter;
import com.tngtech.archunit.core.importer.ImportOption;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.testng.annotations.Test;

/** Holds what core may know, and which way its packages depend. */
public class ArchitectureTest {
    private final JavaClasses core = new ClassFileImporter()
            .withImportOption(ImportOption.Predefined.DO_NOT_INCLUDE_TESTS)
            .importPackages("wirekettle.core");

    @Test
    public void coreKnowsNoWebNoSqlAndNoInterface() {
        noClasses()
                .should()
                .dependOnClassesThat()
                .resideInAnyPackage(
                        "java.sql..",
                        "javax.sql..",
                        "jakarta..",
                        "io.quarkus..",
                        "org.apache.ibatis..",
                        "java.net.http..",
                        "com.sun.net.httpserver..",
                        "java.awt..",
                        "javax.swing..",
                        "wirekettle.connect..",
                        "wirekettle.server..")
                .check(core);
    }

    /** Every package may be used by those it names, and by nothing else in core. */
    private static final Map<String, List<String>> USED_BY = usedBy();

    private static Map<String, List<String>> usedBy() {
        Map<String, List<String>> map = new LinkedHashMap<>();
        List<String> run = List.of("flow.run");
        List<String> compile = List.of("flow.compile", "flow.run");
        List<String> file = List.of("flow.file", "flow.compile", "flow.run", "flow.offer");
        List<String> made = and(file, "assist");
        List<String> fills = and(made, "request", "record");
        List<String> request = and(made, "simulate");
        List<String> expressions = and(fills, "fill", "simulate");
        List<String> soap = and(expressions, "expression");
        map.put("flow.run", List.of());
        map.put("flow.offer", List.of());
        map.put("assist", List.of("flow.offer"));
        map.put("simulate", List.of());
        map.put("flow.compile", run);
        map.put("flow.file", and(compile, "flow.offer"));
        map.put("record", made);
        map.put("request", request);
        map.put("fill", and(fills, "simulate"));
        map.put("expression", expressions);
        map.put("soap", soap);
        map.put("contract", and(soap, "soap"));
        map.put("schema", and(soap, "soap", "contract"));
        return map;
    }

    private static List<String> and(List<String> some, String... more) {
        List<String> all = new ArrayList<>(some);
        all.addAll(List.of(more));
        return all;
    }

    @Test
    public void packagesDependOnlyDownwards() {
        var layers = layeredArchitecture()
                .consideringOnlyDependenciesInLayers()
                .layer("xml")
                .definedBy("..core.xml..")
                .layer("value")
                .definedBy("..core.value..");
        for (String name : USED_BY.keySet()) {
            layers = layers.layer(name).definedBy("..core." + name + "..");
        }
        for (Map.Entry<String, List<String>> each : USED_BY.entrySet()) {
            layers = each.getValue().isEmpty()
                    ? layers.whereLayer(each.getKey()).mayNotBeAccessedByAnyLayer()
                    : layers.whereLayer(each.getKey())
                            .mayOnlyBeAccessedByLayers(each.getValue().toArray(String[]::new));
        }
        layers.check(core);
    }
}
