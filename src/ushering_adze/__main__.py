from ushering_adze.cli import main

main()
