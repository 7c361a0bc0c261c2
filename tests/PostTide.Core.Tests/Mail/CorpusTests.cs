using PostTide.Core.Text;
using PostTide.Mail;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Mail;

/// <summary>
/// The mail files of Debian's <c>libpython3.11-testsuite</c> (<c>test_email/data</c>), broken ones among them: every one is
/// read or refused with a reason. <c>./posttide test</c> unpacks them and says where they are.
/// </summary>
public sealed class CorpusTests
{
    private static readonly string Folder = Environment.GetEnvironmentVariable("POSTTIDE_TEST_MAIL") ?? "";

    public static TheoryData<string> Names => [.. Files().Order(StringComparer.Ordinal)];

    private static IEnumerable<string> Files() => Folder.Length == 0 ? [] : Directory.GetFiles(Folder, "*.txt").Select(f => Path.GetFileName(f));

    [Fact]
    public void The_files_are_there() => Names.Count.ShouldBeGreaterThan(40, "POSTTIDE_TEST_MAIL names no folder of mail files; ./posttide test sets it");

    [Theory]
    [MemberData(nameof(Names))]
    public void Every_file_is_read_or_refused_with_a_reason(string name)
    {
        var bytes = File.ReadAllBytes(Path.Combine(Folder, name));
        foreach (var message in MboxReader.IsMbox(bytes) ? MboxReader.Read(new MemoryStream(bytes), 1_000_000).Select(m => m.Bytes!) : [bytes])
        {
            try
            {
                var prepared = Preparation.Prepare(MailReader.Read(message), Envelope.Unknown, Made.Noon);
                Made.Decide(prepared with { Id = 1 }, Made.Sheet(Made.Line())).Reasons.ShouldNotBeEmpty();
                for (var i = 0; i < prepared.Attachments.Length; i++)
                {
                    MailReader.AttachmentOf(message, i)!.LongLength.ShouldBe(prepared.Attachments[i].Size);
                }
            }
            catch (UnreadableMailException e)
            {
                e.Message.ShouldNotBeEmpty();
            }
        }
    }
}
