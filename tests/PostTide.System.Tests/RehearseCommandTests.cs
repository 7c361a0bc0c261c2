using System.Diagnostics;
using System.Text.Json.Nodes;
using Shouldly;
using Xunit;

namespace PostTide.System.Tests;

/// <summary>The command line rehearses a workflow file on mail files, without a server and without a database.</summary>
public sealed class RehearseCommandTests
{
    private static readonly string Examples = Path.Combine(Office.Root, "docs", "examples");
    private static readonly string Workflow = Path.Combine(Examples, "noise.workflow.yaml");
    private static readonly string Mail = Path.Combine(Examples, "mail");

    private static async Task<(int Code, string Out, string Errors)> RunAsync(params string[] args)
    {
        using var process = Process.Start(new ProcessStartInfo("dotnet", [Office.ProgramOf("Cli"), "rehearse", .. args]) { RedirectStandardOutput = true, RedirectStandardError = true })!;
        var errors = process.StandardError.ReadToEndAsync();
        var output = await process.StandardOutput.ReadToEndAsync();
        await process.WaitForExitAsync();
        return (process.ExitCode, output, await errors);
    }

    private static async Task<string> ChangedAsync(string from, string to)
    {
        var path = Path.Combine(Path.GetTempPath(), $"posttide-{Guid.NewGuid():N}.yaml");
        await File.WriteAllTextAsync(path, (await File.ReadAllTextAsync(Workflow)).Replace(from, to, StringComparison.Ordinal));
        return path;
    }

    [Fact]
    public async Task Every_message_gets_a_line_of_JSON_and_the_kept_examples_hold()
    {
        var (code, output, errors) = await RunAsync("--workflow", Workflow, "--mail", Mail);
        code.ShouldBe(0, errors);
        var lines = output.Split('\n', StringSplitOptions.RemoveEmptyEntries).Select(l => JsonNode.Parse(l)!).ToDictionary(l => (string)l["message"]!);
        lines.Count.ShouldBe(3);
        var night = lines["night-1@townhouse.example"];
        ((bool)night["takenIn"]!).ShouldBeTrue();
        ((string)night["category"]!).ShouldBe("At night");
        ((int)night["line"]!).ShouldBe(1);
        night["deeds"]!.AsArray().Count.ShouldBe(2);
        night["reasons"]![0]!["words"]![0]!["text"]!.GetValue<string>().ShouldBe("Music");
        ((bool)lines["berth-1@tern.example"]["takenIn"]!).ShouldBeFalse();
    }

    [Fact]
    public async Task A_kept_example_that_fails_ends_with_one_and_says_how()
    {
        var changed = await ChangedAsync("night, midnight", "evening");
        var (code, _, errors) = await RunAsync("--workflow", changed, "--mail", Mail, "--summary");
        code.ShouldBe(1);
        errors.ShouldContain("night-1@townhouse.example fails. category: expected At night, came to none of these");
    }

    [Fact]
    public async Task Only_differences_are_printed_against_another_workflow()
    {
        var other = await ChangedAsync("loud, ", "berth, ");
        var (code, output, _) = await RunAsync("--workflow", Workflow, "--against", other, "--mail", Mail);
        code.ShouldBe(0);
        output.Split('\n', StringSplitOptions.RemoveEmptyEntries).ShouldHaveSingleItem().ShouldContain("berth-1@tern.example");
        (await RunAsync("--workflow", Workflow, "--against", Workflow, "--mail", Mail)).Out.ShouldBeEmpty();
    }

    [Fact]
    public async Task A_summary_balances()
    {
        var (_, output, _) = await RunAsync("--workflow", Workflow, "--mail", Mail, "--summary");
        int Count(string name) => int.Parse(output.Split('\n').First(l => l.StartsWith(name + " ", StringComparison.Ordinal))[name.Length..], global::System.Globalization.CultureInfo.InvariantCulture);
        Count("messages").ShouldBe(Count("taken in") + Count("left alone"));
    }

    [Fact]
    public async Task Bad_input_ends_with_two_and_is_told_with_its_line()
    {
        (await RunAsync()).Code.ShouldBe(2);
        (await RunAsync("--workflow", "nowhere.yaml", "--mail", Mail)).Code.ShouldBe(2);
        (await RunAsync("--workflow", Workflow, "--mail", Path.Combine(Mail, "nothing"))).Code.ShouldBe(2);
        var broken = await ChangedAsync("keywordList: Noise words", "keywordList: Other words");
        var (code, _, errors) = await RunAsync("--workflow", broken, "--mail", Mail);
        code.ShouldBe(2);
        errors.ShouldContain(":7: There is no keyword list “Other words” here.");
    }

    [Fact]
    public async Task Mail_that_cannot_be_read_is_told_and_the_rest_is_rehearsed()
    {
        var folder = Directory.CreateTempSubdirectory("posttide-mail");
        await File.WriteAllTextAsync(Path.Combine(folder.FullName, "empty.eml"), "");
        File.Copy(Path.Combine(Mail, "night.eml"), Path.Combine(folder.FullName, "night.eml"));
        var (code, output, errors) = await RunAsync("--workflow", Workflow, "--mail", folder.FullName);
        code.ShouldBe(2);
        errors.ShouldContain("empty.eml: It is empty.");
        output.Split('\n', StringSplitOptions.RemoveEmptyEntries).ShouldHaveSingleItem();
        folder.Delete(recursive: true);
    }

    [Fact]
    public async Task An_mbox_file_is_read_message_by_message()
    {
        var path = Path.Combine(Path.GetTempPath(), $"posttide-{Guid.NewGuid():N}.mbox");
        var night = await File.ReadAllTextAsync(Path.Combine(Mail, "night.eml"));
        await File.WriteAllTextAsync(path, $"From a@b Tue Nov 24 08:12:00 2026\n{night}\nFrom a@b Tue Nov 24 08:13:00 2026\n{night}");
        var (code, output, _) = await RunAsync("--workflow", Workflow, "--mail", path);
        code.ShouldBe(0);
        output.Split('\n', StringSplitOptions.RemoveEmptyEntries).Length.ShouldBe(2);
        File.Delete(path);
    }
}
