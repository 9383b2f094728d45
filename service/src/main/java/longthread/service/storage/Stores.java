package longthread.service.storage;

import longthread.service.storage.catalog.CardQueries;
import longthread.service.storage.catalog.CardQueries_;
import longthread.service.storage.facts.FacetQueries;
import longthread.service.storage.facts.FacetQueries_;
import longthread.service.storage.facts.NameQueries;
import longthread.service.storage.facts.NameQueries_;
import longthread.service.storage.facts.PendingSqlQueries;
import longthread.service.storage.facts.PendingSqlQueries_;
import longthread.service.storage.facts.RenameQueries;
import longthread.service.storage.facts.RenameQueries_;
import longthread.service.storage.facts.RunFactQueries;
import longthread.service.storage.facts.RunFactQueries_;
import longthread.service.storage.graph.HeadQueries;
import longthread.service.storage.graph.HeadQueries_;
import longthread.service.storage.graph.LinkQueries;
import longthread.service.storage.graph.LinkQueries_;
import longthread.service.storage.log.BlockQueries;
import longthread.service.storage.log.BlockQueries_;
import longthread.service.storage.log.RecentEventQueries;
import longthread.service.storage.log.RecentEventQueries_;
import longthread.service.storage.log.RefusalQueries;
import longthread.service.storage.log.RefusalQueries_;
import longthread.service.storage.rebuild.AgedFacts;
import longthread.service.storage.rebuild.CatalogSchemas;
import longthread.service.storage.runs.CheckQueries;
import longthread.service.storage.runs.CheckQueries_;
import longthread.service.storage.runs.JobVersionQueries;
import longthread.service.storage.runs.JobVersionQueries_;
import longthread.service.storage.runs.RunQueries;
import longthread.service.storage.runs.RunQueries_;
import longthread.service.storage.runs.RunRetentionQueries;
import longthread.service.storage.runs.RunRetentionQueries_;
import longthread.service.storage.sources.EmitterQueries;
import longthread.service.storage.sources.EmitterQueries_;
import longthread.service.storage.statements.StatementQueries;
import longthread.service.storage.statements.StatementQueries_;
import org.hibernate.StatelessSession;

/** The queries of one session, for work on the log and the catalog. */
public record Stores(
    BlockQueries blocks,
    RefusalQueries refusals,
    RecentEventQueries recent,
    EmitterQueries emitters,
    HeadQueries head,
    LinkQueries links,
    NameQueries names,
    FacetQueries facets,
    RunFactQueries runFacts,
    RenameQueries renames,
    PendingSqlQueries pendingSql,
    RunQueries runs,
    RunRetentionQueries runRetention,
    CheckQueries checks,
    JobVersionQueries versions,
    CardQueries cards,
    StatementQueries statements,
    AgedFacts aged,
    CatalogSchemas schemas) {
  static Stores over(StatelessSession session) {
    return new Stores(
        new BlockQueries_(session),
        new RefusalQueries_(session),
        new RecentEventQueries_(session),
        new EmitterQueries_(session),
        new HeadQueries_(session),
        new LinkQueries_(session),
        new NameQueries_(session),
        new FacetQueries_(session),
        new RunFactQueries_(session),
        new RenameQueries_(session),
        new PendingSqlQueries_(session),
        new RunQueries_(session),
        new RunRetentionQueries_(session),
        new CheckQueries_(session),
        new JobVersionQueries_(session),
        new CardQueries_(session),
        new StatementQueries_(session),
        new AgedFacts(session),
        new CatalogSchemas(session));
  }
}
