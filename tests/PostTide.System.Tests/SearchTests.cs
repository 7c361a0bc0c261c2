using MimeKit;
using PostTide.Store.Search;
using Shouldly;
using Xunit;

namespace PostTide.System.Tests;

/// <summary>Mail is found by its words, whatever their case, accents and script, by phrases, and by parts of words in subject and sender.</summary>
public sealed class SearchTests(Office office) : IClassFixture<Office>
{
    [Theory]
    [InlineData("berth yacht", "\"berth\" \"yacht\"")]
    [InlineData("\"stone quay\" -crane", "\"stone quay\" -\"crane\"")]
    [InlineData("berth OR mooring", "\"berth\" or \"mooring\"")]
    [InlineData("SH-1042", "\"sh 1042\"")]
    [InlineData("or", "")]
    [InlineData("or berth or", "\"berth\"")]
    [InlineData("- \"", "")]
    [InlineData("\"unclosed phrase", "\"unclosed phrase\"")]
    [InlineData("a\"b c\"", "\"a\" \"b c\"")]
    [InlineData("it's 'quoted' \\ & | ! <-> :*", "\"it s\" \"quoted\"")]
    public void What_is_typed_is_read_as_words(string typed, string asked) => SearchText.Read(typed).ShouldBe(asked);

    [Fact]
    public async Task Words_phrases_accents_scripts_and_parts_of_words_find_mail()
    {
        var mark = $"m{Guid.NewGuid():N}"[..12];
        await office.SendAsync(Office.Mail($"Liegeplatz {mark}", "Grüße von Jörg. Die Fähre kommt um zehn, siehe SH-77042.\n", from: "Jörg Ångström <jorg@fjord.example>"));
        await office.SendAsync(Office.Mail($"見積もり {mark}", "価格はいくらですか。\n"));
        var message = Office.Mail($"Papers {mark}", "See the files.\n");
        var builder = new BodyBuilder { TextBody = "See the files.\n" };
        builder.Attachments.Add("Ladeliste März.pdf", [1, 2, 3], ContentType.Parse("application/pdf"));
        message.Body = builder.ToMessageBody();
        await office.SendAsync(message);
        foreach (var subject in new[] { $"Liegeplatz {mark}", $"見積もり {mark}", $"Papers {mark}" })
        {
            await office.PlannedAsync(subject);
        }

        async Task<string[]> FoundAsync(string text) =>
            [.. (await office.GetAsync($"/api/messages?text={Uri.EscapeDataString($"{mark} {text}")}"))["messages"]!.AsArray().Select(m => m!["subject"]!.GetValue<string>().Split(' ')[0]).Order(StringComparer.Ordinal)];

        (await FoundAsync("")).Length.ShouldBe(3);
        (await FoundAsync("grusse jorg")).ShouldBeEmpty("ß is a letter of its own");
        (await FoundAsync("grüße")).ShouldBe(["Liegeplatz"]);
        (await FoundAsync("JORG fahre")).ShouldBe(["Liegeplatz"]);
        (await FoundAsync("77042")).ShouldBe(["Liegeplatz"]);
        (await FoundAsync("sh-77042")).ShouldBe(["Liegeplatz"]);
        (await FoundAsync("fjord")).ShouldBe(["Liegeplatz"], "a part of the sender's domain");
        (await FoundAsync("価格")).ShouldBe(["見積もり"]);
        (await FoundAsync("格価")).ShouldBeEmpty("characters follow each other as they were written");
        (await FoundAsync("ladeliste marz")).ShouldBe(["Papers"]);
        (await FoundAsync("\"marz ladeliste\"")).ShouldBeEmpty();
        (await FoundAsync("-files")).ShouldBe(["Liegeplatz", "見積もり"]);
        (await FoundAsync("papers or 価格")).Length.ShouldBe(2);
        (await office.GetAsync($"/api/messages?text={Uri.EscapeDataString(mark[3..9])}"))["messages"]!.AsArray().Count.ShouldBe(3, "a part of a word in the subject");
        (await office.GetAsync($"/api/messages?text={Uri.EscapeDataString("'; DROP TABLE messages; --")}"))["messages"]!.AsArray().ShouldBeEmpty();
    }
}
