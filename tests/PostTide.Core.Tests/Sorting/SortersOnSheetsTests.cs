using System.Collections.Immutable;
using PostTide.Core.Formats;
using PostTide.Core.Matching;
using PostTide.Core.Rehearsal;
using PostTide.Core.Sorting;
using PostTide.Core.Workflows;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Sorting;

/// <summary>Sorters on sheets: lines by category and surety, unsure mail, what people said, and rehearsing another number.</summary>
public sealed class SortersOnSheetsTests
{
    private static readonly TrainedSorter Trained = SorterTrainer.Train(MadeMail.Settings, MadeMail.Examples(40, none: true)).Sorter;
    private static readonly TrainedSorter Cold = SorterTrainer.Train(MadeMail.Settings with { Categories = [.. MadeMail.Settings.Categories.Select(c => c with { Cues = [c.Id] })] }, []).Sorter;

    private static readonly Sheet Sheet = new()
    {
        Addresses = ["berths@saltmarrow.example"],
        SorterId = 5,
        Categories = [Sorted("berth"), Sorted("fuel"), Sorted("noise")],
        Lines =
        [
            new Line { Id = "sure", Case = LineCase.Category, CategoryId = "fuel", SuretyFrom = 0.9, Queues = [new PlaceSpec(1, null)] },
            new Line { Id = "l-fuel", Case = LineCase.Category, CategoryId = "fuel", Queues = [new PlaceSpec(2, null)] },
            new Line { Id = "l-berth", Case = LineCase.Category, CategoryId = "berth", Queues = [new PlaceSpec(1, null)] },
            new Line { Id = "none", Case = LineCase.NoneOfThese },
            new Line { Id = "unsure", Case = LineCase.Unsure, Queues = [new PlaceSpec(2, 60)] },
        ],
    };

    private static Category Sorted(string id) => new() { Id = id, Name = id, BySorter = true };

    private static PlanContext With(TrainedSorter? sorter) => Made.Context with { Sorters = new Dictionary<long, SorterInUse> { [5] = new(5, "Desk", sorter is null ? 0 : 3, sorter) } };

    private static Verdict Decide(string text, PlanContext? context = null, Sheet? sheet = null) => Made.Decide(MadeMail.Says(text, "Hello"), sheet ?? Sheet, context ?? With(Trained));

    [Fact]
    public void A_line_fits_by_category_and_the_reason_says_how_sure_and_on_which_words()
    {
        var verdict = Decide("berth mooring overnight pontoon yacht");
        (verdict.CategoryId, verdict.LineId).ShouldBe(("berth", "l-berth"));
        verdict.Sorter.ShouldNotBeNull().ShouldSatisfyAllConditions(s => s.Unsure.ShouldBeFalse(), s => s.Number.ShouldBe(3), s => s.Surety.ShouldBeGreaterThan(0.8));
        var reason = verdict.Reasons.Single(r => r.Text.StartsWith("sorted as “berth”, surety", StringComparison.Ordinal));
        reason.Evidence.ShouldContain(e => e.Text == "mooring");
    }

    [Fact]
    public void A_line_can_ask_for_more_surety_than_the_sorter()
    {
        var sure = Decide("diesel litres petrol tank delivery pump");
        sure.LineId.ShouldBe("sure");
        var asks = Sheet with { Lines = [Sheet.Lines[0] with { SuretyFrom = 0.9999 }, .. Sheet.Lines.Skip(1)] };
        Decide("diesel litres petrol tank delivery pump", sheet: asks).LineId.ShouldBe("l-fuel");
    }

    [Fact]
    public void Unsure_mail_goes_where_the_unsure_line_says_and_nowhere_without_one()
    {
        var verdict = Decide("fuel or so", With(Cold));
        verdict.CategoryId.ShouldBeNull();
        verdict.LineId.ShouldBe("unsure");
        verdict.Sorter.ShouldNotBeNull().ShouldSatisfyAllConditions(s => s.Unsure.ShouldBeTrue(), s => s.CategoryId.ShouldBe("fuel"));
        verdict.Reasons.ShouldContain(r => r.Text.StartsWith("unsure: most like “fuel”", StringComparison.Ordinal));
        var without = Decide("fuel or so", With(Cold), Sheet with { Lines = [.. Sheet.Lines.Where(l => l.Case != LineCase.Unsure)] });
        (without.LineId, without.Deeds.Length).ShouldBe((null, 0), "it stays untouched");
    }

    [Fact]
    public void Without_a_number_in_use_everything_is_unsure_and_says_so()
    {
        Decide("diesel", With(null)).Reasons.ShouldContain(r => r.Text.Contains("no number of the sorter “Desk” is in use yet", StringComparison.Ordinal));
        Decide("diesel", Made.Context).LineId.ShouldBe("unsure");
    }

    [Fact]
    public void Conditions_come_first_then_what_a_person_said_then_the_sorter()
    {
        var sheet = Sheet with { Categories = [Sorted("berth") with { When = new ConditionSet { All = [Made.Text("c9", MessagePart.Subject, MatchTest.Is, "Hello")] } }, Sorted("fuel"), Sorted("noise")] };
        Decide("diesel litres", sheet: sheet).ShouldSatisfyAllConditions(v => v.CategoryId.ShouldBe("berth"), v => v.Sorter.ShouldBeNull());
        var said = With(Trained) with { SortedByHand = new Dictionary<(long, long), SaidBefore> { [(5, 7)] = new("noise", "Ann") } };
        var verdict = Decide("diesel litres", said);
        verdict.CategoryId.ShouldBe("noise");
        verdict.Sorter.ShouldBeNull("a person is not unsure");
        verdict.Reasons.ShouldContain(r => r.Text == "sorted as “noise” by Ann");
    }

    [Fact]
    public void A_category_the_sheet_does_not_have_is_none_of_its()
    {
        var sheet = Sheet with { Categories = [Sorted("berth"), Sorted("noise")], Lines = [.. Sheet.Lines.Skip(2)] };
        Decide("diesel litres petrol tank delivery pump", sheet: sheet).ShouldSatisfyAllConditions(v => v.CategoryId.ShouldBeNull(), v => v.LineId.ShouldBe("none"));
    }

    [Fact]
    public void An_outside_sorter_decides_where_it_answered_and_leaves_unsure_where_it_did_not()
    {
        var asks = Made.Context with { Sorters = new Dictionary<long, SorterInUse> { [5] = new(5, "Desk", 3, Trained) { AsksOutside = true } } };
        Decide("diesel", asks).ShouldSatisfyAllConditions(v => v.LineId.ShouldBe("unsure"), v => v.Reasons.ShouldContain(r => r.Text.Contains("gave no answer", StringComparison.Ordinal)));
        var answered = asks with { SaidOutside = new Dictionary<(long, long), SaidBefore> { [(5, 7)] = new("berth", "the outside sorter (x)") } };
        Decide("diesel", answered).ShouldSatisfyAllConditions(v => v.CategoryId.ShouldBe("berth"), v => v.Reasons.ShouldContain(r => r.Text == "sorted as “berth” by the outside sorter (x)"));
    }

    [Fact]
    public void The_same_message_gives_the_same_plan_however_often_it_is_asked()
    {
        var message = MadeMail.Says("berth mooring diesel");
        var first = Made.Decide(message, Sheet, With(Trained));
        Made.Decide(message, Sheet, With(Cold)).ShouldNotBe(first);
        var again = Made.Decide(message, Sheet, With(Trained));
        (again.LineId, again.Sorter).ShouldBe((first.LineId, first.Sorter));
        Made.Decide(message with { Body = Core.Text.BodySplitter.Split("diesel litres petrol tank\n") }, Sheet, With(Trained)).CategoryId.ShouldBe("fuel", "what was kept belongs to the text it was said about");
    }

    [Fact]
    public void Another_number_is_rehearsed_like_any_other_change()
    {
        var mail = MadeMail.Examples(10, seed: 12).Select(e => e.Message with { ConversationId = e.Id }).ToList();
        var live = LiveRun.Of(mail, [Made.Edition(Sheet)], 1, 0, With(Cold));
        var result = Rehearser.Run(live, Made.Edition(Sheet), With(Trained));
        var summary = RehearsalSummary.Of(result);
        summary.Unsure.ShouldBeLessThan(5);
        summary.Changes.ShouldBeGreaterThan(20);
        result.Messages.Count(m => new RehearsalSelection(RehearsalView.Unsure).Holds(m)).ShouldBe(summary.Unsure);
        var changed = result.Explain(result.Changes.First(m => m.After.CategoryId == "berth"));
        changed.Before!.Reasons.ShouldContain(r => r.Text.StartsWith("unsure", StringComparison.Ordinal));
        changed.After.Reasons.Single(r => r.Text.StartsWith("sorted as", StringComparison.Ordinal)).Evidence.ShouldNotBeEmpty("words are found again for the message opened");
        RehearsalSummary.Of(Rehearser.Run(live, Made.Edition(Sheet))).Changes.ShouldBe(0);
    }

    [Fact]
    public void Logic_knows_the_case_of_being_unsure()
    {
        var saved = ImmutableDictionary<long, SavedCondition>.Empty;
        TableAnalysis.Of(Sheet, saved).Where(f => f.Kind == FindingKind.FallsThrough).Select(f => f.At).ShouldBe(["noise"]);
        var without = Sheet with { Lines = [.. Sheet.Lines.Where(l => l.Case != LineCase.Unsure)] };
        TableAnalysis.Of(without, saved).ShouldContain(f => f.At == TableAnalysis.Unsure && f.Text.Contains("left untouched", StringComparison.Ordinal));
        var swapped = Sheet with { Lines = [Sheet.Lines[1], Sheet.Lines[0], .. Sheet.Lines.Skip(2)] };
        TableAnalysis.Of(swapped, saved).ShouldContain(f => f.Kind == FindingKind.NeverReached && f.At == "sure");
        TableAnalysis.Of(Sheet, saved).ShouldNotContain(f => f.Kind == FindingKind.NeverReached, "the first line asks for more");
    }

    [Fact]
    public void A_sheet_whose_sorter_is_gone_or_not_in_use_cannot_go_live()
    {
        SheetCheck.Check(Sheet, With(Trained)).ShouldBeEmpty();
        SheetCheck.Check(Sheet, With(null)).ShouldContain(p => p.Text.Contains("No number of the sorter", StringComparison.Ordinal));
        SheetCheck.Check(Sheet, Made.Context).ShouldContain(p => p.Text == "The sheet's sorter is gone.");
        SheetCheck.Check(Sheet with { SorterId = null }, Made.Context).ShouldContain(p => p.Text.Contains("the sheet has none", StringComparison.Ordinal));
        SheetCheck.Check(Sheet with { Lines = [Sheet.Lines[0] with { SuretyFrom = 1.5 }] }, With(Trained)).ShouldContain(p => p.Text.Contains("between 0 and 100", StringComparison.Ordinal));
    }

    [Fact]
    public void Sorter_surety_and_unsure_survive_a_document()
    {
        var context = With(Trained);
        var yaml = YamlText.Write(DocumentWriter.Write("Desk mail", Sheet, context));
        yaml.ShouldContain("sorter: Desk");
        var read = WorkflowFile.Read(yaml, DocumentNames.Of(context), context);
        read.Problems.ShouldBeEmpty();
        read.Sheet!.ShouldSatisfyAllConditions(
            s => s.SorterId.ShouldBe(5), s => s.Categories.ShouldAllBe(c => c.BySorter), s => s.Lines[0].SuretyFrom.ShouldBe(0.9), s => s.Lines[^1].Case.ShouldBe(LineCase.Unsure));
        EditionComparison.Between(Sheet with { SorterId = null }, read.Sheet!, context).ShouldContain(c => (c.After ?? "").Contains("the sorter Desk", StringComparison.Ordinal));
    }

    [Fact]
    public void In_Sieve_lines_that_rest_on_the_sorter_are_left_out_and_told()
    {
        var export = SieveWriter.Write(DocumentWriter.Write("Desk mail", Sheet with { Lines = [.. Sheet.Lines.Select(l => l with { InMailbox = new MailboxSpec([new MailboxEffect(MailboxEffectKind.Move, l.Id)]) })] }, With(Trained)));
        export.Script.ShouldNotContain("fileinto");
        export.DoesNotFit.ShouldContain("No sorter is asked in Sieve.");
        export.DoesNotFit.Count(d => d.StartsWith("Line ", StringComparison.Ordinal)).ShouldBe(5);
    }

    [Fact]
    public void On_the_command_line_a_sorter_file_stands_for_the_one_that_is_named()
    {
        var yaml = YamlText.Write(DocumentWriter.Write("Desk mail", Sheet, With(Trained)));
        WorkflowFile.Read(yaml).Problems.ShouldContain(p => p.Text.Contains("is in use yet", StringComparison.Ordinal));
        var file = WorkflowFile.Read(yaml, sorter: Trained);
        file.Problems.ShouldBeEmpty();
        Made.Decide(MadeMail.Says("diesel litres petrol tank delivery"), file.Sheet!, file.Context).CategoryId.ShouldBe("fuel");
    }
}
