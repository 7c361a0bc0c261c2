using System.Text.Json;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Identity.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.ChangeTracking;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using Microsoft.EntityFrameworkCore.Storage.ValueConversion;
using PostTide.Store.Records;

namespace PostTide.Store;

/// <summary>The records in PostgreSQL.</summary>
public sealed class PostTideContext(DbContextOptions<PostTideContext> options)
    : IdentityDbContext<Person, IdentityRole<long>, long>(options)
{
    public const string TicketNumbers = "ticket_number";
    private const string DefaultIds = "EntityFrameworkHiLoSequence";

    public DbSet<Mailbox> Mailboxes => Set<Mailbox>();
    public DbSet<MailboxAddress> Addresses => Set<MailboxAddress>();
    public DbSet<Connection> Connections => Set<Connection>();
    public DbSet<Run> Runs => Set<Run>();
    public DbSet<RunMessage> RunMessages => Set<RunMessage>();
    public DbSet<RunSkip> RunSkips => Set<RunSkip>();
    public DbSet<Upload> Uploads => Set<Upload>();
    public DbSet<DoNotMailEntry> DoNotMail => Set<DoNotMailEntry>();
    public DbSet<Raw> Raws => Set<Raw>();
    public DbSet<Message> Messages => Set<Message>();
    public DbSet<Prepared> Prepared => Set<Prepared>();
    public DbSet<ConversationId> ConversationIds => Set<ConversationId>();
    public DbSet<Workflow> Workflows => Set<Workflow>();
    public DbSet<WorkflowEdition> Editions => Set<WorkflowEdition>();
    public DbSet<PlanRecord> Plans => Set<PlanRecord>();
    public DbSet<Deed> Deeds => Set<Deed>();
    public DbSet<DeedChange> DeedHistory => Set<DeedChange>();
    public DbSet<Queue> Queues => Set<Queue>();
    public DbSet<Item> Items => Set<Item>();
    public DbSet<Ticket> Tickets => Set<Ticket>();
    public DbSet<Entry> Entries => Set<Entry>();
    public DbSet<Reply> Replies => Set<Reply>();
    public DbSet<FiledFile> Files => Set<FiledFile>();
    public DbSet<Template> Templates => Set<Template>();
    public DbSet<KeywordListRecord> KeywordLists => Set<KeywordListRecord>();
    public DbSet<SavedConditionRecord> SavedConditions => Set<SavedConditionRecord>();
    public DbSet<KeptExampleRecord> KeptExamples => Set<KeptExampleRecord>();
    public DbSet<Sorter> Sorters => Set<Sorter>();
    public DbSet<SorterNumber> SorterNumbers => Set<SorterNumber>();
    public DbSet<SorterLabel> SorterLabels => Set<SorterLabel>();
    public DbSet<SortedMessage> Sorted => Set<SortedMessage>();
    public DbSet<OutsideSorterSettings> OutsideSorters => Set<OutsideSorterSettings>();
    public DbSet<OutsideAnswerRecord> OutsideAnswers => Set<OutsideAnswerRecord>();
    public DbSet<DeskHours> DeskHours => Set<DeskHours>();
    public DbSet<Destination> Destinations => Set<Destination>();
    public DbSet<AuditEntry> Audit => Set<AuditEntry>();

    /// <summary>Named here, so that the model does not depend on how the host is put together.</summary>
    protected override Version SchemaVersion => IdentitySchemaVersions.Version2;

    /// <summary>The same options everywhere a context is made.</summary>
    public static void Configure(DbContextOptionsBuilder options, string connection) =>
        options.UseNpgsql(connection).UseSnakeCaseNamingConvention();

    protected override void OnModelCreating(ModelBuilder builder)
    {
        base.OnModelCreating(builder);
        builder.HasPostgresExtension("pg_trgm");

        // Ids are drawn in blocks, so that records that point at each other are written in one round trip; a block lasts for a batch of new mail.
        // The sequence has its default name: under another one the migration tool sees a change that is none.
        builder.UseHiLo();
        builder.HasSequence<long>(DefaultIds).IncrementsBy(500);
        builder.HasSequence<long>(TicketNumbers).StartsAt(1001);
        NameSignInTables(builder);
        ConfigureMailboxes(builder);
        ConfigureMail(builder);
        ConfigureWorkflows(builder);
        ConfigureSorters(builder);
        ConfigureWork(builder);
        ConfigureOutgoing(builder);
    }

    private static void NameSignInTables(ModelBuilder builder)
    {
        builder.Entity<Person>().ToTable("people");
        builder.Entity<IdentityRole<long>>().ToTable("roles");
        builder.Entity<IdentityUserRole<long>>().ToTable("people_roles");
        builder.Entity<IdentityUserClaim<long>>().ToTable("people_claims");
        builder.Entity<IdentityUserLogin<long>>().ToTable("people_logins");
        builder.Entity<IdentityUserToken<long>>().ToTable("people_tokens");
        builder.Entity<IdentityRoleClaim<long>>().ToTable("role_claims");
    }

    private static void ConfigureMailboxes(ModelBuilder builder)
    {
        builder.Entity<Mailbox>(m => Document(m.Property(x => x.Approval)));
        builder.Entity<MailboxAddress>(a =>
        {
            a.ToTable("addresses");
            a.HasIndex(x => x.Address).IsUnique();
        });
        builder.Entity<Connection>(c =>
        {
            c.ToTable("connections");
            c.HasKey(x => x.MailboxId);
            c.HasOne<Mailbox>().WithOne(m => m.Connection).HasForeignKey<Connection>(x => x.MailboxId);
            c.Property(x => x.MailboxId).ValueGeneratedNever();
            c.Property(x => x.Tls).HasConversion<string>();
            c.Property(x => x.OldMail).HasConversion<string>();
            Document(c.Property(x => x.Hours));
        });
        builder.Entity<Run>(r =>
        {
            r.HasIndex(x => new { x.StartedAt, x.Id });
            r.HasIndex(x => new { x.MailboxId, x.StartedAt });
            r.HasIndex(x => x.State).HasFilter("state = 'Running'");
            r.Property(x => x.Kind).HasConversion<string>();
            r.Property(x => x.State).HasConversion<string>();
        });
        builder.Entity<RunMessage>(m =>
        {
            m.ToTable("run_messages");
            m.HasKey(x => new { x.RunId, x.Number });
            m.HasOne<Run>().WithMany().HasForeignKey(x => x.RunId);
            m.HasIndex(x => new { x.RunId, x.MessageId });
            m.Property(x => x.Outcome).HasConversion<string>();
        });
        builder.Entity<RunSkip>(s =>
        {
            s.ToTable("run_skips");
            s.HasOne<Run>().WithMany().HasForeignKey(x => x.RunId);
            s.Property(x => x.Kind).HasConversion<string>();
        });
        builder.Entity<Upload>(u =>
        {
            u.ToTable("uploads");
            u.Property(x => x.Id).ValueGeneratedNever();
            u.Property(x => x.State).HasConversion<string>();
            Document(u.Property(x => x.Refused));
        });
    }

    private static void ConfigureMail(ModelBuilder builder)
    {
        builder.Entity<DoNotMailEntry>(d =>
        {
            d.ToTable("do_not_mail");
            d.HasIndex(x => x.AddressOrDomain).IsUnique();
        });
        builder.Entity<Raw>(r =>
        {
            r.ToTable("raws");
            r.HasKey(x => x.Sha256);
        });
        builder.Entity<Message>(m =>
        {
            m.HasOne<Mailbox>().WithMany().HasForeignKey(x => x.MailboxId).OnDelete(DeleteBehavior.Restrict);
            m.HasOne<Raw>().WithMany().HasForeignKey(x => x.RawSha256).OnDelete(DeleteBehavior.Restrict);
            m.HasIndex(x => new { x.MailboxId, x.SourceKey }).IsUnique();
            m.HasIndex(x => x.Id).HasFilter("state = 'Arrived'").HasDatabaseName("ix_messages_unplanned");
            m.HasIndex(x => new { x.ArrivedAt, x.Id });
            m.HasIndex(x => new { x.SenderAddress, x.ArrivedAt });
            m.HasIndex(x => x.ConversationId);
            m.HasIndex(x => new { x.MailboxId, x.MailId });
            m.HasIndex(x => x.RunId).HasFilter("run_id IS NOT NULL");
            m.HasIndex(x => x.ArrivedAt).HasFilter("state = 'Held'").HasDatabaseName("ix_messages_held");
            m.Property(x => x.State).HasConversion<string>();
            m.Property(x => x.Automatic).HasConversion<string>();
        });
        builder.Entity<Prepared>(p =>
        {
            p.ToTable("prepared");
            p.HasKey(x => x.MessageId);
            p.HasOne<Message>().WithOne().HasForeignKey<Prepared>(x => x.MessageId);
            Document(p.Property(x => x.Document));
            p.HasIndex(x => x.ArrivedAt);
            p.Property(x => x.Search).HasComputedColumnSql("to_tsvector('simple', words)", stored: true);
            p.HasIndex(x => x.Search).HasMethod("gin");
            p.HasIndex(x => x.Subject).HasMethod("gin").HasOperators("gin_trgm_ops");
            p.HasIndex(x => x.Sender).HasMethod("gin").HasOperators("gin_trgm_ops");
        });
        builder.Entity<ConversationId>(c =>
        {
            c.ToTable("conversation_ids");
            c.HasKey(x => x.MailId);
            c.HasIndex(x => x.Conversation);
        });
    }

    private static void ConfigureWorkflows(ModelBuilder builder)
    {
        builder.Entity<WorkflowEdition>(e =>
        {
            e.ToTable("editions");
            e.HasIndex(x => new { x.WorkflowId, x.Number }).IsUnique();
            e.HasIndex(x => x.WorkflowId).IsUnique().HasFilter("state = 'Live'").HasDatabaseName("ix_editions_one_live");
            e.HasIndex(x => x.WorkflowId).IsUnique().HasFilter("state = 'InHand'").HasDatabaseName("ix_editions_one_in_hand");
            e.Property(x => x.State).HasConversion<string>();
            Document(e.Property(x => x.Sheet));
            e.Property(x => x.Revision).IsConcurrencyToken();
        });
        builder.Entity<KeptExampleRecord>(e =>
        {
            e.ToTable("kept_examples");
            e.HasOne<Workflow>().WithMany().HasForeignKey(x => x.WorkflowId);
            e.HasOne<Message>().WithMany().HasForeignKey(x => x.MessageId);
            e.HasIndex(x => new { x.WorkflowId, x.MessageId }).IsUnique();
            Document(e.Property(x => x.Expected));
        });
        builder.Entity<PlanRecord>(p =>
        {
            p.ToTable("plans");
            p.HasOne<Message>().WithMany().HasForeignKey(x => x.MessageId);
            p.HasIndex(x => x.MessageId).IsUnique().HasFilter("current").HasDatabaseName("ix_plans_one_current");
            Document(p.Property(x => x.Verdicts));
        });
        builder.Entity<Deed>(d =>
        {
            d.HasOne<Message>().WithMany().HasForeignKey(x => x.MessageId);
            d.HasIndex(x => new { x.MessageId, x.WorkflowId, x.Kind, x.Target, x.Repeat }).IsUnique();
            d.HasIndex(x => x.RunId).HasFilter("run_id IS NOT NULL");
            d.HasIndex(x => x.Key).IsUnique();
            d.HasIndex(x => new { x.State, x.CreatedAt }).HasFilter("state NOT IN ('Done', 'Skipped', 'Dropped')");
            d.HasIndex(x => new { x.WorkflowId, x.Kind, x.Target, x.CreatedAt }).HasFilter("kind = 'Reply'");
            d.HasIndex(x => x.CreatedAt);
            d.Property(x => x.Kind).HasConversion<string>();
            d.Property(x => x.State).HasConversion<string>();
            Document(d.Property(x => x.Content));
        });
        builder.Entity<DeedChange>(c =>
        {
            c.ToTable("deed_history");
            c.HasOne<Deed>().WithMany(d => d.History).HasForeignKey(x => x.DeedId);
            c.Property(x => x.State).HasConversion<string>();
        });
    }

    private static void ConfigureSorters(ModelBuilder builder)
    {
        builder.Entity<Sorter>().HasIndex(x => x.Name).IsUnique();
        builder.Entity<SorterNumber>(n =>
        {
            n.ToTable("sorter_numbers");
            n.HasIndex(x => new { x.SorterId, x.Number }).IsUnique();
            n.HasIndex(x => x.SorterId).IsUnique().HasFilter("state = 'InUse'").HasDatabaseName("ix_sorter_numbers_one_in_use");
            n.HasIndex(x => x.SorterId).IsUnique().HasFilter("state = 'InHand'").HasDatabaseName("ix_sorter_numbers_one_in_hand");
            n.Property(x => x.State).HasConversion<string>();
            Document(n.Property(x => x.Settings));
            Document(n.Property(x => x.Evaluation));
            Document(n.Property(x => x.Predictions));
        });
        builder.Entity<SorterLabel>(l =>
        {
            l.ToTable("sorter_labels");
            l.HasKey(x => new { x.SorterId, x.MessageId });
            l.HasOne<Sorter>().WithMany().HasForeignKey(x => x.SorterId);
            l.HasOne<Message>().WithMany().HasForeignKey(x => x.MessageId);
            l.Property(x => x.Source).HasConversion<string>();
        });
        builder.Entity<SortedMessage>(s =>
        {
            s.ToTable("sorted_messages");
            s.HasKey(x => new { x.SorterId, x.MessageId });
            s.HasOne<Sorter>().WithMany().HasForeignKey(x => x.SorterId);
            s.HasOne<Message>().WithMany().HasForeignKey(x => x.MessageId);
            s.HasIndex(x => new { x.SorterId, x.At });
        });
        builder.Entity<OutsideSorterSettings>(o =>
        {
            o.ToTable("outside_sorter");
            o.Property(x => x.Id).ValueGeneratedNever();
        });
        builder.Entity<OutsideAnswerRecord>(o =>
        {
            o.ToTable("outside_answers");
            o.HasKey(x => new { x.SorterId, x.MessageId });
            o.HasOne<Sorter>().WithMany().HasForeignKey(x => x.SorterId);
            o.HasOne<Message>().WithMany().HasForeignKey(x => x.MessageId);
        });
    }

    private static void ConfigureWork(ModelBuilder builder)
    {
        builder.Entity<Queue>().HasIndex(x => x.Name).IsUnique();
        builder.Entity<Item>(i =>
        {
            i.HasOne<Queue>().WithMany().HasForeignKey(x => x.QueueId).OnDelete(DeleteBehavior.Restrict);
            i.HasOne(x => x.Message).WithMany().HasForeignKey(x => x.MessageId);
            i.HasOne(x => x.TakenBy).WithMany().HasForeignKey(x => x.TakenById);
            i.HasIndex(x => new { x.QueueId, x.DueAt }).HasFilter("state <> 'Done'");
            i.HasIndex(x => x.MessageId);
            i.Property(x => x.State).HasConversion<string>();
            i.Property(x => x.Version).IsRowVersion();
        });
        builder.Entity<Ticket>(t =>
        {
            t.HasIndex(x => x.Number).IsUnique();
            t.HasIndex(x => x.Reference).IsUnique();
            t.HasIndex(x => x.ConversationId);
            t.HasIndex(x => new { x.State, x.ChangedAt });
            t.Property(x => x.State).HasConversion<string>();
            t.Property(x => x.Priority).HasConversion<string>();
        });
        builder.Entity<Entry>(e =>
        {
            e.HasOne<Item>().WithMany(i => i.Entries).HasForeignKey(x => x.ItemId);
            e.HasOne<Ticket>().WithMany(t => t.Entries).HasForeignKey(x => x.TicketId);
            e.Property(x => x.Kind).HasConversion<string>();
        });
    }

    private static void ConfigureOutgoing(ModelBuilder builder)
    {
        builder.Entity<Reply>(r =>
        {
            r.HasOne(x => x.Deed).WithOne().HasForeignKey<Reply>(x => x.DeedId);
            r.HasIndex(x => x.MailId).IsUnique();
            r.HasIndex(x => x.MessageId);
        });
        builder.Entity<FiledFile>(f =>
        {
            f.ToTable("files");
            f.HasIndex(x => new { x.Folder, x.Name }).IsUnique();
            f.HasIndex(x => x.MessageId);
        });
        builder.Entity<Template>().HasIndex(x => x.Name).IsUnique();
        builder.Entity<DeskHours>(o =>
        {
            o.ToTable("desk_hours");
            o.Property(x => x.Id).ValueGeneratedNever();
        });
        builder.Entity<SavedConditionRecord>(c =>
        {
            c.ToTable("saved_conditions");
            c.HasIndex(x => x.Name).IsUnique();
            Document(c.Property(x => x.Set));
        });
        builder.Entity<KeywordListRecord>(k =>
        {
            k.ToTable("keyword_lists");
            k.HasIndex(x => x.Name).IsUnique();
        });
        builder.Entity<Destination>().HasIndex(x => x.Name).IsUnique();
        builder.Entity<AuditEntry>().ToTable("audit_log");
    }

    /// <summary>
    /// A value that is read and written whole. Column type <c>json</c> keeps it exactly as written. Documents are immutable, so
    /// that two are taken for different unless they are the same one.
    /// </summary>
    private static void Document<T>(PropertyBuilder<T> property) => property.HasColumnType("json").HasConversion(
        new ValueConverter<T, string>(
            v => JsonSerializer.Serialize(v, Documents.Json),
            s => JsonSerializer.Deserialize<T>(s, Documents.Json)!),
        new ValueComparer<T>((a, b) => Equals(a, b), v => v == null ? 0 : v.GetHashCode(), v => v));
}
