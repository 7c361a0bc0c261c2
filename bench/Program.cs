using BenchmarkDotNet.Configs;
using BenchmarkDotNet.Jobs;
using BenchmarkDotNet.Running;
using BenchmarkDotNet.Toolchains.InProcess.Emit;
using PostTide.Bench;

switch (args)
{
    case ["planning"]:
        var job = Job.ShortRun.WithToolchain(InProcessEmitToolchain.Instance);
        BenchmarkRunner.Run<Planning>(DefaultConfig.Instance.AddJob(job));
        return 0;
    case ["arrivals", var messages]:
        await Arrivals.RunAsync(int.Parse(messages, System.Globalization.CultureInfo.InvariantCulture));
        return 0;
    case ["intake", var corpus, var messages]:
        await Intake.RunAsync(corpus, int.Parse(messages, System.Globalization.CultureInfo.InvariantCulture));
        return 0;
    case ["matching", var corpus, var messages]:
        await Matching.RunAsync(corpus, int.Parse(messages, System.Globalization.CultureInfo.InvariantCulture));
        return 0;
    case ["sorting", var corpus]:
        Sorting.Run(corpus);
        return 0;
    default:
        Console.Error.WriteLine("Usage: planning | arrivals N | intake FOLDER N | matching FOLDER N | sorting FOLDER");
        return 2;
}
