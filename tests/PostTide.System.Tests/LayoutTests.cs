using ArchUnitNET.Domain;
using ArchUnitNET.Loader;
using ArchUnitNET.xUnitV3;
using Microsoft.EntityFrameworkCore;
using PostTide.Store;
using Shouldly;
using Xunit;
using static ArchUnitNET.Fluent.ArchRuleDefinition;
using Assembly = System.Reflection.Assembly;

namespace PostTide.System.Tests;

/// <summary>Dependencies point one way: Core ← Mail, Store, Destinations ← Engine ← Server, Cli.</summary>
public sealed class LayoutTests
{
    private static readonly string[] Parts = ["Core", "Mail", "Store", "Destinations", "Engine", "Server", "Cli"];

    private static readonly Architecture Code = new ArchLoader().LoadAssemblies([.. Parts.Select(p => Assembly.Load($"PostTide.{p}"))]).Build();

    [Theory]
    [InlineData("Core", "Mail|Store|Destinations|Engine|Server|Cli")]
    [InlineData("Mail", "Store|Destinations|Engine|Server|Cli")]
    [InlineData("Store", "Mail|Destinations|Engine|Server|Cli")]
    [InlineData("Destinations", "Mail|Store|Engine|Server|Cli")]
    [InlineData("Engine", "Server|Cli")]
    [InlineData("Server", "Cli")]
    public void No_part_knows_what_stands_above_it(string part, string above) =>
        Types().That().ResideInAssembly(Assembly.Load($"PostTide.{part}"))
            .Should().NotDependOnAnyTypesThat().ResideInNamespaceMatching($@"^PostTide\.({above})(\.|$)").Check(Code);

    [Theory]
    [InlineData("Microsoft.EntityFrameworkCore")]
    [InlineData("Microsoft.AspNetCore")]
    [InlineData("Npgsql")]
    [InlineData("MimeKit")]
    public void The_core_knows_neither_database_nor_web_nor_mail_library(string library) =>
        Assembly.Load("PostTide.Core").GetReferencedAssemblies().Select(a => a.Name!).ShouldAllBe(name => !name.StartsWith(library, StringComparison.Ordinal));

    [Fact]
    public void The_migrations_say_what_the_model_says()
    {
        var options = new DbContextOptionsBuilder<PostTideContext>();
        PostTideContext.Configure(options, "Host=127.0.0.1");
        using var db = new PostTideContext(options.Options);
        db.Database.HasPendingModelChanges().ShouldBeFalse();
    }
}
