using CsCheck;
using PostTide.Core.Filing;
using Shouldly;
using Xunit;

namespace PostTide.Core.Tests.Filing;

/// <summary>RFC 2183 §2.3: a declared file name must not be trusted; directory parts are dropped.</summary>
public sealed class SafeNameTests
{
    [Theory]
    [InlineData("../../etc/passwd", "passwd")]
    [InlineData("C:\\windows\\system32\\cmd.exe", "cmd.exe")]
    [InlineData("..", "attachment")]
    [InlineData("", "attachment")]
    [InlineData("CON.txt", "_CON.txt")]
    [InlineData("a\u0000b\u202Efdp.exe", "abfdp.exe")]
    [InlineData("invoice*?.pdf", "invoice__.pdf")]
    [InlineData("Zürich 浜.pdf ", "Zürich 浜.pdf")]
    public void A_name_becomes_one_harmless_segment(string declared, string expected) => SafeName.File(declared).ShouldBe(expected);

    [Theory]
    [InlineData("a/../b", "a/b")]
    [InlineData("/etc//x/", "etc/x")]
    [InlineData("..", "")]
    public void A_folder_keeps_only_harmless_levels(string path, string expected) => SafeName.Folder(path).ShouldBe(expected);

    [Fact]
    public void A_long_name_keeps_its_ending()
    {
        var name = SafeName.File(new string('x', 500) + ".pdf");
        name.Length.ShouldBe(120);
        name.ShouldEndWith(".pdf");
    }

    [Theory]
    [InlineData("a.pdf", 1, "a.pdf")]
    [InlineData("a.pdf", 2, "a (2).pdf")]
    [InlineData("a", 3, "a (3)")]
    public void A_taken_name_is_numbered(string name, int number, string expected) => SafeName.Numbered(name, number).ShouldBe(expected);

    [Fact]
    public void Whatever_was_declared_stays_inside_its_folder() => Gen.String.Sample(declared =>
    {
        var name = SafeName.File(declared);
        name.ShouldNotBeEmpty();
        name.ShouldNotContain('/');
        name.ShouldNotContain('\\');
        name.ShouldNotBeOneOf(".", "..");
        var root = Path.GetFullPath("/safe");
        Path.GetFullPath(Path.Combine(root, SafeName.Folder(declared), name)).ShouldStartWith(root + "/");
    });
}
