package cli

import "github.com/spf13/cobra"

func loginCommand() *cobra.Command    { return &cobra.Command{Use: "login"} }
func exerciseCommand() *cobra.Command { return &cobra.Command{Use: "exercise"} }
func handinCommand() *cobra.Command   { return &cobra.Command{Use: "handin"} }
func marksCommand() *cobra.Command    { return &cobra.Command{Use: "marks"} }
