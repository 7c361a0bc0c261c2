using System.Collections.Immutable;
using CsCheck;
using PostTide.Core.Matching;
using PostTide.Core.Messages;
using PostTide.Core.Rehearsal;
using PostTide.Core.Text;
using PostTide.Core.Workflows;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Rehearsal;

/// <summary>What a rehearsal offers: by how little a message missed, the smallest changes that would take it, and its kind.</summary>
public sealed class HelpTests
{
    private static readonly ImmutableArray<PreparedMessage> Mail =
    [
        .. new[]
        {
            ("Berth for Tern", "we need a berth\n", "maud@tern.example"),
            ("Place for Avocet", "we would like to moor our boat\n", "ada@avocet.example"),
            ("Place for Curlew", "we would like to moor for two nights\n", "ben@curlew.example"),
            ("Crane fault", "the crane stopped\n", "monitor@plant.example"),
            ("Crane fault again", "the crane stopped again\n", "monitor@plant.example"),
            ("Crane is back", "the crane runs\n", "monitor@plant.example"),
            ("Noise at night", "so loud\n", "kay@town.example"),
        }.Select((m, i) => Made.Message(m.Item1, m.Item2, m.Item3) with { Id = i + 1, ConversationId = i + 1, ArrivedAt = Made.Noon.AddHours(i) }),
    ];

    private static readonly Sheet Sheet = Made.Sheet(Made.Line());

    [Fact]
    public void A_near_miss_says_how_near_it_was()
    {
        var sheet = Sheet with { TakesIn = new ConditionSet { All = [Made.Text("a", MessagePart.SenderDomain, MatchTest.Is, "tern.example"), Made.Words("c1")] } };
        var shortfall = Shortfall.Of(Made.Message("Bertj for us", "hello\n"), sheet, Made.Context)!;
        shortfall.ConditionId.ShouldBe("c1");
        shortfall.ByHowLittle.ShouldBe("“Bertj” is one letter off “berth”");
        shortfall.Evidence!.Start.ShouldBe(0);
    }

    [Fact]
    public void A_number_that_missed_is_told()
    {
        var sheet = Sheet with { TakesIn = new ConditionSet { All = [Made.Words("c1"), new Condition { Id = "s", Part = MessagePart.Size, Test = MatchTest.Between, Most = 5_000_000 }] } };
        Shortfall.Of(Made.Message() with { Size = 5_200_000 }, sheet, Made.Context)!.ByHowLittle.ShouldBe("5.2 MB");
        Shortfall.Of(Made.Message() with { Size = 100 }, sheet, Made.Context).ShouldBeNull();
    }

    [Fact]
    public void A_forbidden_word_and_a_wrong_address_are_told()
    {
        var sheet = Sheet with { TakesIn = Sheet.TakesIn with { None = [Made.Text("n", MessagePart.Subject, MatchTest.Word, "tern")] } };
        Shortfall.Of(Made.Message(), sheet, Made.Context)!.Evidence!.Text.ShouldBe("Tern");
        Shortfall.Of(Made.Message(), Sheet with { Addresses = ["fuel@saltmarrow.example"] }, Made.Context)!.ByHowLittle.ShouldBe("it was written to berths@saltmarrow.example");
    }

    [Theory]
    [InlineData("berth", "bertj", 1)]
    [InlineData("berth", "breth", 1)]
    [InlineData("berth", "birth", 1)]
    [InlineData("mooring", "moring", 1)]
    [InlineData("berth", "crane", 3)]
    [InlineData("réseau", "reseau", 0)]
    public void Words_differ_by_so_many_letters(string a, string b, int off) => EditDistance.Between(a, b, 2).ShouldBe(off);

    [Fact]
    public void A_distance_is_the_same_both_ways_and_nothing_to_itself() => Gen.Select(Gen.String[Gen.Char["abc"], 0, 8], Gen.String[Gen.Char["abc"], 0, 8]).Sample((a, b) =>
    {
        EditDistance.Between(a, b, 8).ShouldBe(EditDistance.Between(b, a, 8));
        (EditDistance.Between(a, b, 8) == 0).ShouldBe(a == b);
    });

    [Fact]
    public void The_smallest_changes_take_the_message_and_say_what_else_they_bring_in()
    {
        var changes = SmallestChanges.For(Mail[1], Sheet, Mail, Made.Context);
        changes.ShouldNotBeEmpty();
        foreach (var change in changes)
        {
            var lists = Made.Context.KeywordLists.ToDictionary();
            foreach (var addition in change.ListAdditions)
            {
                lists[addition.KeywordListId] = new KeywordList(addition.KeywordListId, "x", lists[addition.KeywordListId].Entries.Add(addition.Word));
            }

            var context = Made.Context with { KeywordLists = lists };
            Mail.Where(m => Made.Decide(m, change.Sheet, context).Outcome == Outcome.TakenIn && Made.Decide(m, Sheet).Outcome != Outcome.TakenIn)
                .Select(m => m.Id).ShouldBe(change.AlsoTakes.Append(2L).Order());
        }

        changes.Select(c => c.AlsoTakes.Length).ShouldBeInOrder();
        changes.ShouldContain(c => c.ListAdditions.Length == 1 && c.AlsoTakes.Contains(3L));
        SmallestChanges.For(Mail[0], Sheet, Mail, Made.Context).ShouldBeEmpty();
    }

    [Fact]
    public void An_alternative_is_added_where_one_of_several_is_asked_for()
    {
        var sheet = Sheet with { TakesIn = new ConditionSet { Any = [Made.Words("c1"), Made.Text("c2", MessagePart.SenderDomain, MatchTest.Is, "tern.example")] } };
        var change = SmallestChanges.For(Mail[6], sheet, Mail, Made.Context).First(c => c.Text == "or the sender’s address is “kay@town.example”");
        change.Sheet.TakesIn.Any.Length.ShouldBe(3);
        change.AlsoTakes.ShouldBeEmpty();
    }

    [Fact]
    public void Two_failed_demands_need_two_edits_and_four_are_not_mended()
    {
        var two = Sheet with { TakesIn = new ConditionSet { All = [Made.Text("a", MessagePart.Subject, MatchTest.Contains, "zzz"), Made.Words("c1")] } };
        SmallestChanges.For(Mail[6], two, Mail, Made.Context).ShouldAllBe(c => c.Text.Contains(", and ", StringComparison.Ordinal));
        var four = Sheet with { TakesIn = new ConditionSet { All = [.. Enumerable.Range(0, 4).Select(i => Made.Text($"a{i}", MessagePart.Subject, MatchTest.Contains, $"zz{i}"))] } };
        SmallestChanges.For(Mail[6], four, Mail, Made.Context).ShouldBeEmpty();
    }

    [Fact]
    public void An_address_is_added_even_where_only_To_is_known()
    {
        var elsewhere = Mail[0] with { OriginallyTo = [], To = [new EmailAddress("", "fuel@saltmarrow.example")] };
        var changes = SmallestChanges.For(elsewhere, Sheet with { Addresses = ["berths@saltmarrow.example"] }, Mail, Made.Context);
        changes.Select(c => c.Text).ShouldBe(["take mail to fuel@saltmarrow.example as well", "take mail to every address"]);
        changes[0].Sheet.Addresses.ShouldBe(["berths@saltmarrow.example", "fuel@saltmarrow.example"]);
    }

    [Fact]
    public void A_limit_is_widened_just_enough()
    {
        var sheet = Sheet with { TakesIn = new ConditionSet { All = [new Condition { Id = "s", Part = MessagePart.Size, Test = MatchTest.Between, Most = 1_000 }] } };
        var big = Made.Message() with { Size = 1_500 };
        SmallestChanges.For(big, sheet, [big], Made.Context).ShouldContain(c => c.Sheet.TakesIn.All.Any(x => x.Most == 1_500));
    }

    [Fact]
    public void The_kind_of_some_messages_is_found_with_true_figures()
    {
        var chosen = Mail.Where(m => m.From.Address == "monitor@plant.example").ToList();
        var proposals = TheirKind.Find(chosen, Mail, Made.Context);
        proposals[0].Recall.ShouldBe(1);
        proposals[0].Precision.ShouldBe(1);
        foreach (var proposal in proposals)
        {
            var found = Mail.Where(m => Matcher.Decide(proposal.Set, m, Made.Context.For(m)).Holds).ToList();
            proposal.Matched.ShouldBe(found.Count);
            proposal.Chosen.ShouldBe(found.Count(chosen.Contains));
            proposal.Others.Order().ShouldBe(found.Except(chosen).Select(m => m.Id).Order());
            proposal.Precision.ShouldBe((double)proposal.Chosen / proposal.Matched);
        }

        TheirKind.Find([], Mail, Made.Context).ShouldBeEmpty();
    }

    [Fact]
    public void What_finds_one_message_alone_is_not_its_kind_and_pairs_find_less_than_their_parts()
    {
        var proposals = TheirKind.Find([Mail[3]], Mail, Made.Context);
        proposals[0].Others.ShouldNotBeEmpty();
        foreach (var pair in proposals.Where(p => p.Set.All.Length == 2))
        {
            var alone = pair.Set.All.Select(c => Mail.Count(m => Matcher.Decide(c, m, Made.Context.For(m)).Held)).Min();
            pair.Matched.ShouldBeLessThan(alone);
        }
    }

    // Manning, Raghavan, Schütze, Introduction to Information Retrieval, §8.3: F is the harmonic mean; by hand, P = 1/3 and R = 1 give 1/2.
    [Fact]
    public void F_is_the_harmonic_mean() => new KindProposal("x", ConditionSet.Empty, 1, 3, 1, 1 / 3.0, []).F.ShouldBe(0.5, 1e-12);
}
