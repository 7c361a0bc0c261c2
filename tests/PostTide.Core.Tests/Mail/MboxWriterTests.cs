using System.Text;
using CsCheck;
using PostTide.Mail;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Mail;

/// <summary>RFC 4155, appendix A: the separator line, and an empty line after each message.</summary>
public sealed class MboxWriterTests
{
    private static async Task<byte[]> WriteAsync(params byte[][] messages)
    {
        using var file = new MemoryStream();
        foreach (var message in messages)
        {
            await MboxWriter.WriteAsync(file, "ada@tester.example", new DateTimeOffset(2026, 11, 5, 9, 7, 3, TimeSpan.FromHours(1)), message, CancellationToken.None);
        }

        return file.ToArray();
    }

    [Fact]
    public async Task The_separator_has_the_sender_and_the_time_in_UTC() =>
        Encoding.ASCII.GetString(await WriteAsync("Subject: x\n\nFrom here\n>From there\n"u8.ToArray()))
            .ShouldBe("From ada@tester.example Thu Nov 5 08:07:03 2026\nSubject: x\n\n>From here\n>>From there\n\n");

    [Fact]
    public async Task A_hostile_sender_cannot_end_the_line()
    {
        using var file = new MemoryStream();
        await MboxWriter.WriteAsync(file, "a\nFrom b", DateTimeOffset.UnixEpoch, "x\n"u8.ToArray(), CancellationToken.None);
        Encoding.ASCII.GetString(file.ToArray()).ShouldStartWith("From aFromb Thu Jan 1 00:00:00 1970\nx\n");
    }

    [Fact]
    public void What_is_read_is_byte_for_byte_what_was_written()
    {
        var line = Gen.OneOf(
            Gen.String[Gen.Char[' ', '~'], 0, 30], Gen.Const("From the start"), Gen.Const(">From quoted"), Gen.Const(">>From twice"), Gen.Const(""), Gen.Const("\r"));
        line.List[1, 12].List[1, 5].Sample(messages =>
        {
            var written = messages.Select(m => Encoding.ASCII.GetBytes(string.Concat(m.Select(l => l + "\n")))).ToArray();
            var read = MboxReader.Read(new MemoryStream(WriteAsync(written).GetAwaiter().GetResult()), 1_000_000).Select(m => m.Bytes!).ToArray();
            read.Length.ShouldBe(written.Length);
            for (var i = 0; i < read.Length; i++)
            {
                read[i].ShouldBe(written[i]);
            }
        });
    }
}
