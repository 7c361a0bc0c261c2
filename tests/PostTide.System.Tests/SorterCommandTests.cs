using System.Diagnostics;
using System.Text.Json.Nodes;
using Shouldly;
using Xunit;

namespace PostTide.System.Tests;

/// <summary>The command line trains, tries and uses sorters on folders of mail files.</summary>
public sealed class SorterCommandTests : IDisposable
{
    private static readonly (string Category, string[] Words)[] Kinds =
    [
        ("berth", ["berth", "mooring", "overnight", "pontoon", "yacht"]), ("fuel", ["diesel", "litres", "petrol", "tank", "delivery"]),
        ("none-of-these", ["invoice", "statement", "offer", "newsletter", "reminder"]),
    ];

    private readonly DirectoryInfo _folder = Directory.CreateTempSubdirectory("posttide-sorter");

    public void Dispose() => _folder.Delete(recursive: true);

    private static async Task<(int Code, string Out, string Errors)> RunAsync(params string[] args)
    {
        using var process = Process.Start(new ProcessStartInfo("dotnet", [Office.ProgramOf("Cli"), "sorter", .. args]) { RedirectStandardOutput = true, RedirectStandardError = true })!;
        var errors = process.StandardError.ReadToEndAsync();
        var output = await process.StandardOutput.ReadToEndAsync();
        await process.WaitForExitAsync();
        return (process.ExitCode, output, await errors);
    }

    private async Task<string> MailAsync(string name, int each, int seed)
    {
        var random = new Random(seed);
        foreach (var (category, words) in Kinds)
        {
            var folder = Directory.CreateDirectory(Path.Combine(_folder.FullName, name, category)).FullName;
            for (var i = 0; i < each; i++)
            {
                var text = string.Join(' ', Enumerable.Range(0, 7).Select(_ => words[random.Next(words.Length)]));
                await File.WriteAllTextAsync(Path.Combine(folder, $"{i:D3}.eml"), $"From: a{i}@b.example\r\nTo: c@d.example\r\nSubject: {words[i % words.Length]}\r\nMessage-ID: <{name}-{category}-{i}@b.example>\r\nDate: Mon, 23 Nov 2026 10:00:00 +0000\r\n\r\n{text}\r\n");
            }
        }

        return Path.Combine(_folder.FullName, name);
    }

    [Fact]
    public async Task Training_writes_the_same_bytes_from_the_same_examples_and_the_file_sorts_mail()
    {
        var examples = await MailAsync("train", 15, 1);
        string[] files = [Path.Combine(_folder.FullName, "one.sorter"), Path.Combine(_folder.FullName, "two.sorter")];
        foreach (var file in files)
        {
            var (code, output, errors) = await RunAsync("train", "--examples", examples, "--out", file);
            code.ShouldBe(0, errors);
            output.ShouldContain("cross-validation");
            output.ShouldContain("decides at 95");
        }

        (await File.ReadAllBytesAsync(files[0])).ShouldBe(await File.ReadAllBytesAsync(files[1]));
        var (sorted, lines, _) = await RunAsync("sort", "--sorter", files[0], "--mail", Path.Combine(examples, "fuel"));
        sorted.ShouldBe(0);
        lines.Split('\n', StringSplitOptions.RemoveEmptyEntries).Select(l => JsonNode.Parse(l)!["category"]!.GetValue<string>()).ShouldAllBe(c => c == "fuel");
    }

    [Fact]
    public async Task Evaluation_prints_every_figure_as_json()
    {
        var (code, output, errors) = await RunAsync("evaluate", "--examples", await MailAsync("train", 20, 1), "--test", await MailAsync("test", 10, 2), "--few", "8", "--seed", "3", "--json");
        code.ShouldBe(0, errors);
        var report = JsonNode.Parse(output)!;
        ((int)report["trainedOn"]!, (int)report["triedOn"]!, (string)report["measured"]!).ShouldBe((24, 30, "test"));
        ((double)report["accuracy"]!).ShouldBe(1);
        ((double)report["macroF1"]!).ShouldBe(1);
        report["categories"]!.AsArray().Select(c => (string)c!["category"]!).ShouldBe(["berth", "fuel", "none of these"]);
        report["coverage"]!.AsArray().Select(c => (double)c!["rightAtLeast"]!).ShouldBe([0.95, 0.98]);
        ((double)report["coverage"]![0]!["decided"]!).ShouldBe(1);
        ((double)report["calibrationError"]!).ShouldBeLessThan(0.2);
        ((double)report["trainingSeconds"]!).ShouldBeGreaterThan(0);
        ((double)report["messagesPerSecond"]!).ShouldBeGreaterThan(0);
    }

    [Fact]
    public async Task A_draw_without_a_test_folder_is_tried_on_the_rest()
    {
        var examples = await MailAsync("train", 12, 1);
        var (_, first, _) = await RunAsync("evaluate", "--examples", examples, "--few", "5", "--seed", "1", "--json");
        var report = JsonNode.Parse(first)!;
        ((int)report["trainedOn"]!, (int)report["triedOn"]!).ShouldBe((15, 21));
        var (_, again, _) = await RunAsync("evaluate", "--examples", examples, "--few", "5", "--seed", "1", "--json");
        JsonNode.Parse(again)!["brier"]!.GetValue<double>().ShouldBe(report["brier"]!.GetValue<double>());
    }

    [Fact]
    public async Task What_cannot_be_read_is_told_and_the_rest_is_used()
    {
        var examples = await MailAsync("train", 10, 1);
        await File.WriteAllTextAsync(Path.Combine(examples, "fuel", "zzz.eml"), "not mail");
        var (code, output, errors) = await RunAsync("evaluate", "--examples", examples, "--json");
        code.ShouldBe(1);
        errors.ShouldContain("zzz.eml");
        JsonNode.Parse(output)!["unreadable"]!.GetValue<int>().ShouldBe(1);
    }

    [Theory]
    [InlineData("evaluate")]
    [InlineData("evaluate", "--examples", "EMPTY")]
    [InlineData("evaluate", "--examples", "MISSING")]
    [InlineData("evaluate", "--examples", "EMPTY", "--few", "many")]
    [InlineData("sort", "--sorter", "JUNK", "--mail", "EMPTY")]
    [InlineData("fly")]
    public async Task Bad_input_ends_with_two_and_says_why(params string[] args)
    {
        var junk = Path.Combine(_folder.FullName, "junk");
        await File.WriteAllTextAsync(junk, "not a sorter");
        var empty = Directory.CreateDirectory(Path.Combine(_folder.FullName, "empty")).FullName;
        var (code, _, errors) = await RunAsync([.. args.Select(a => a switch { "EMPTY" => empty, "MISSING" => Path.Combine(empty, "no"), "JUNK" => junk, _ => a })]);
        code.ShouldBe(2);
        errors.ShouldNotBeEmpty();
        errors.ShouldNotContain("   at ");
    }
}
